package compose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"arvel/core/compose"
)

func TestTagsAreMendedByWhatARuleFound(t *testing.T) {
	for _, c := range [][3]string{
		{"opener", `<a href="https://x.example/" target="_blank">w</a>`, `<a href="https://x.example/" target="_blank" rel="noopener">w</a>`},
		{"opener", `<a target=_blank rel=external href=https://x.example/>w</a>`, `<a target=_blank rel="external noopener" href=https://x.example/>w</a>`},
		{"missing-alt", `<img src=p.png>`, `<img src=p.png alt="">`},
		{"space-in-link-text", `see <a href=x> our list </a>now`, `see <a href=x>our list</a> now`},
		{"space-in-link-text", `see<a href=x>&nbsp;our list </a> now`, `see&nbsp;<a href=x>our list</a> now`},
		{"space-in-link-text", `<a href=x>our <b>list </b> </a>.`, `<a href=x>our <b>list </b></a> .`},
		{"space-in-link-text", `<a href=x> </a>`, `<a href=x> </a>`},
		{"space-in-link-text", `<a href=x>w <p>no end`, `<a href=x>w <p>no end`},
		{"missing-file", `<a href=x>w</a>`, `<a href=x>w</a>`},
	} {
		p := compose.Open(library(seeds), "index.html", []byte(c[1]))
		assert.Equal(t, c[2], applied(t, c[1], p.Mend(c[0], 0), nil), c[1])
	}
}
