package mailbox_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"arvel/core/address"
	"arvel/core/mailbox"
	_ "arvel/test/seed" // rapid takes it
)

func TestParseDecodesEveryField(t *testing.T) {
	m := mailbox.Parse("MAILTO:a@b.example,c%40d.example?cc=e@f.example&Subject=Seed%20%26%20soil&body=One%0D%0ATwo&X-Club=1")
	assert.Empty(t, m.Problems)
	assert.Equal(t, []string{"a@b.example", "c@d.example"}, m.To)
	assert.Equal(t, []string{"e@f.example"}, m.Cc)
	assert.Equal(t, "Seed & soil", m.Subject)
	assert.Equal(t, "One\r\nTwo", m.Body)
	assert.Equal(t, []mailbox.Field{{Name: "X-Club", Value: "1"}}, m.Other)
}

func TestParseTellsWhatIsNotReadAsMeant(t *testing.T) {
	for value, problem := range map[string]string{
		"mailto:":                           "no address",
		"mailto:tuesday":                    "no `@`",
		"mailto:a@@b.example":               "more than one",
		"mailto:@b.example":                 "before the `@`",
		"mailto:a@":                         "after the `@`",
		"mailto:a@b":                        "no dot",
		"mailto: a@b.example":               "a space beside",
		"mailto:a b@c.example":              "a space in it",
		"mailto:a@b.example;c@d.example":    "separated by `,`",
		"mailto://a@b.example":              "web address",
		"mailto:a@b.example&subject=x":      "in place of `?`",
		"mailto:a@b.example?subject=x y":    "not encoded",
		"mailto:a@b.example?subject=x+y":    "`+` for a space",
		"mailto:a@b.example?subject=100%":   "encodes nothing",
		"mailto:a@b.example?subject=x&y":    "no field",
		"mailto:a@b.example?cc=x?bcc=y":     "second `?`",
		"mailto:a@b.example?subject=%E9t":   "not encoded as UTF-8",
		"mailto:a@-b.example":               "not the name of a host",
		"mailto:a@b.example,":               "missing beside a comma",
		"mailto:a@b.example?subject=<soil>": "percent-encoded",
	} {
		problems := mailbox.Parse(value).Problems
		if assert.NotEmpty(t, problems, value) {
			assert.Contains(t, problems[0], problem, value)
		}
	}
	for _, good := range []string{
		"mailto:a@b.example", "mailto:a.b+c@d-e.example", "mailto:?to=a@b.example", "mailto:a@b.example?", "mailto:a@[127.0.0.1]",
		"mailto:a@b.example?subject=C++", "mailto:?cc=a@b.example",
	} {
		assert.Empty(t, mailbox.Parse(good).Problems, good)
	}
}

func TestMendLeavesNoProblem(t *testing.T) {
	for value, want := range map[string]string{
		"mailto:a@b.example&subject=Seed":          "mailto:a@b.example?subject=Seed",
		"mailto:a@b.example?subject=Your beans":    "mailto:a@b.example?subject=Your%20beans",
		"mailto:a@b.example?subject=Seed & soil":   "mailto:a@b.example?subject=Seed%20%26%20soil",
		"mailto:a@b.example; c@d.example":          "mailto:a@b.example,c@d.example",
		"mailto://a@b.example":                     "mailto:a@b.example",
		"mailto: a@b.example ":                     "mailto:a@b.example",
		"mailto:a@b.example?subject=x?body=y":      "mailto:a@b.example?subject=x&body=y",
		"mailto:a@b.example?subject=Seed+and+soil": "mailto:a@b.example?subject=Seed%20and%20soil",
	} {
		got, ok := mailbox.Mend(value)
		assert.True(t, ok, value)
		assert.Equal(t, want, got)
	}
	_, ok := mailbox.Mend("mailto:tuesday")
	assert.False(t, ok, "who it is for can't be guessed")
}

func TestEncodeIsReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.String().Draw(t, "text")
		assert.Equal(t, text, address.PercentDecode(mailbox.Encode(text)))
		m := mailbox.Parse("mailto:a@b.example?subject=" + mailbox.Encode(text))
		assert.Equal(t, text, m.Subject)
		assert.Empty(t, m.Problems)
	})
}
