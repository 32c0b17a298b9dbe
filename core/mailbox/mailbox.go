// Package mailbox reads e-mail links as RFC 6068 has them: whom the message goes to and what is filled in, and
// what in the link a mail program would not read as its author meant. It sends nothing.
package mailbox

import (
	"net/mail"
	"slices"
	"strings"
	"unicode/utf8"

	"arvel/core/address"
	"arvel/core/phrase"
)

// Message is what a mail program makes of a mailto: link. All values are decoded.
type Message struct {
	To, Cc, Bcc   []string
	Subject, Body string
	// Other are header fields besides those, in order.
	Other []Field
	// Problems say, each as a clause, what in the link would not be read as meant; none for a good link.
	Problems []string
}

// Field is one header field of a message.
type Field struct{ Name, Value string }

// Parse reads the value of a reference that begins with "mailto:", in any letter case.
func Parse(value string) Message {
	var m Message
	value = strings.TrimSpace(value)
	if i := strings.IndexByte(value, ':'); i >= 0 {
		value = value[i+1:]
	}
	if i := strings.IndexByte(value, '#'); i >= 0 {
		value = value[:i]
	}
	to, fields, hasFields := strings.Cut(value, "?")
	m.To = m.addresses(to)
	if hasFields {
		m.fields(fields)
	}
	if len(m.To)+len(m.Cc)+len(m.Bcc) == 0 && len(m.Problems) == 0 {
		m.problem("it has no address")
	}
	return m
}

func (m *Message) problem(p string) { m.Problems = append(m.Problems, p) }

// addresses splits a list of addresses at its commas, decodes and checks each.
func (m *Message) addresses(list string) []string {
	if strings.TrimSpace(list) == "" {
		return nil
	}
	if strings.HasPrefix(list, "//") {
		m.problem("`//` comes before the address, as in a web address")
		list = list[2:]
	}
	var out []string
	for part := range strings.SplitSeq(list, ",") {
		a := address.PercentDecode(part)
		out = append(out, strings.TrimSpace(a))
		if p := Fault(a); p != "" {
			m.problem(p)
		}
	}
	return out
}

// Fault says what keeps address from being a mailbox, as a clause, or "".
func Fault(address string) string {
	trimmed := strings.TrimSpace(address)
	at := strings.LastIndexByte(trimmed, '@')
	switch {
	case trimmed == "":
		return "an address is missing beside a comma"
	case trimmed != address:
		return "there is a space beside " + phrase.Mono(trimmed)
	case strings.Contains(trimmed, ";"):
		return "addresses are separated by `,`, not by `;`"
	case strings.Contains(trimmed, "&") && strings.Contains(trimmed[strings.IndexByte(trimmed, '&'):], "="):
		return "the first field begins with `&` in place of `?`"
	case at < 0:
		return phrase.Mono(trimmed) + " has no `@`"
	case at == 0:
		return "nothing comes before the `@`"
	case at == len(trimmed)-1:
		return "nothing comes after the `@`"
	case strings.Count(trimmed, "@") > 1:
		return phrase.Mono(trimmed) + " has more than one `@`"
	case strings.ContainsAny(trimmed, " \t\r\n"):
		return phrase.Mono(trimmed) + " has a space in it"
	}
	return domainFault(trimmed, trimmed[at+1:])
}

func domainFault(address, domain string) string {
	if _, err := mail.ParseAddress(address); err != nil {
		return phrase.Mono(address) + " is not an e-mail address"
	}
	if strings.HasPrefix(domain, "[") {
		return ""
	}
	for label := range strings.SplitSeq(domain, ".") {
		if label == "" || strings.HasPrefix(label, "-") || strings.HasSuffix(label, "-") || strings.ContainsAny(label, "_/:") {
			return phrase.Mono(domain) + " is not the name of a host"
		}
	}
	if !strings.Contains(domain, ".") {
		return phrase.Mono(domain) + " is not the whole name of a host: it has no dot"
	}
	return ""
}

// IsAddress reports whether text has the form of one mailbox.
func IsAddress(text string) bool {
	return Fault(text) == "" && !strings.ContainsAny(text, "/?#:\\<>\"")
}

func (m *Message) fields(list string) {
	if strings.Contains(list, "?") {
		m.problem("there is a second `?` in place of `&`")
	}
	for part := range strings.SplitSeq(list, "&") {
		if part == "" {
			continue
		}
		name, raw, hasValue := strings.Cut(part, "=")
		name = address.PercentDecode(name)
		if !hasValue {
			m.problem(phrase.Mono(part) + " is no field; an `&` inside a text is written `%26`")
			continue
		}
		m.checkEncoding(name, raw)
		m.field(name, address.PercentDecode(raw), raw)
	}
}

// checkEncoding tells of characters that may not stand for themselves in a field (RFC 6068, 2).
func (m *Message) checkEncoding(name, raw string) {
	switch {
	case strings.ContainsAny(raw, " \t\r\n"):
		m.problem("the " + strings.ToLower(name) + " has spaces that are not encoded as `%20`")
	case strings.ContainsAny(raw, `"<>`+"`"):
		m.problem("the " + strings.ToLower(name) + " has characters that must be percent-encoded")
	case plusForSpace(raw):
		m.problem("the " + strings.ToLower(name) + " has `+` for a space, which a mail program shows as `+`; it is written `%20`")
	case address.HasStrayPercent(raw):
		m.problem("the " + strings.ToLower(name) + " has a `%` that encodes nothing; it is written `%25`")
	case !utf8.ValidString(address.PercentDecode(raw)):
		m.problem("the " + strings.ToLower(name) + " is not encoded as UTF-8")
	}
}

// plusForSpace reports whether words are joined by '+', as a form would send them.
func plusForSpace(raw string) bool {
	if strings.Contains(raw, "%20") {
		return false
	}
	for i := 1; i+1 < len(raw); i++ {
		if raw[i] == '+' && isLetter(raw[i-1]) && isLetter(raw[i+1]) {
			return true
		}
	}
	return false
}

func isLetter(c byte) bool { return 'a' <= c|0x20 && c|0x20 <= 'z' }

func (m *Message) field(name, value, raw string) {
	switch strings.ToLower(name) {
	case "to":
		m.To = append(m.To, m.addresses(raw)...)
	case "cc":
		m.Cc = append(m.Cc, m.addresses(raw)...)
	case "bcc":
		m.Bcc = append(m.Bcc, m.addresses(raw)...)
	case "subject":
		m.Subject = value
	case "body":
		m.Body = value
	default:
		if !token(name) {
			m.problem(phrase.Mono(name) + " is not the name of a field")
		}
		m.Other = append(m.Other, Field{name, value})
	}
}

func token(name string) bool {
	for i := range len(name) {
		if c := name[i]; !isLetter(c) && c != '-' && (c < '0' || c > '9') {
			return false
		}
	}
	return name != ""
}

// literal are the bytes besides letters and digits that stand for themselves in a field's value (RFC 6068, 2).
const literal = "-._~!$'()*,:@/"

// Encode percent-encodes text for a field's value.
func Encode(text string) string {
	return address.PercentEncode(text, func(c byte) bool {
		return isLetter(c) || '0' <= c && c <= '9' || strings.IndexByte(literal, c) >= 0
	})
}

// Addresses reads addresses as people type and paste them: parted by commas, semicolons or spaces, with names before them or in
// angle brackets, or with mailto: in front. What is none stays as it is.
func Addresses(list string) []string {
	list = strings.TrimSpace(list)
	if len(list) >= 7 && strings.EqualFold(list[:7], "mailto:") {
		list = strings.TrimSpace(list[7:])
	}
	var out []string
	for part := range strings.FieldsFuncSeq(list, func(r rune) bool { return r == ',' || r == ';' || r == '\n' }) {
		part = strings.TrimSpace(part)
		if _, inside, ok := strings.Cut(part, "<"); ok {
			part, _, _ = strings.Cut(inside, ">")
			part = strings.TrimSpace(part)
		}
		words := strings.Fields(part)
		if len(words) > 1 && !slices.ContainsFunc(words, func(w string) bool { return !IsAddress(w) }) {
			out = append(out, words...)
		} else if part != "" {
			out = append(out, part)
		}
	}
	return out
}

// Compose writes an e-mail link (RFC 6068): addresses, as [Addresses] reads them, and what is filled in, each encoded.
func Compose(to, cc, bcc, subject, body string) string {
	return Rewrite("", to, cc, bcc, subject, body)
}

// Rewrite writes an e-mail link that fills in what is given. Of the value that it had, "" for none, what says the same and the
// fields of other names stay as they are written.
func Rewrite(value, to, cc, bcc, subject, body string) string {
	before := Parse(value)
	_, rest, _ := strings.Cut(strings.TrimSpace(value), ":")
	written, query, _ := strings.Cut(rest, "?")
	if list := Addresses(to); !slices.Equal(list, before.To) {
		written = encoded(list)
	}
	fields := map[string]string{"cc": encoded(Addresses(cc)), "bcc": encoded(Addresses(bcc)), "subject": Encode(subject), "body": Encode(strings.ReplaceAll(body, "\n", "\r\n"))}
	same := map[string]bool{
		"cc": slices.Equal(Addresses(cc), before.Cc), "bcc": slices.Equal(Addresses(bcc), before.Bcc),
		"subject": subject == before.Subject, "body": body == strings.ReplaceAll(before.Body, "\r\n", "\n"),
	}
	var out []string
	for part := range strings.SplitSeq(query, "&") {
		name, _, _ := strings.Cut(part, "=")
		name = strings.ToLower(address.PercentDecode(name))
		fresh, own := fields[name]
		switch {
		case name == "to": // it is before the others now
			written = encoded(Addresses(to))
		case part == "":
		case !own || same[name]:
			out = append(out, part)
		case fresh != "":
			out = append(out, name+"="+fresh)
		}
		if own {
			same[name] = true
		}
	}
	for _, name := range []string{"cc", "bcc", "subject", "body"} {
		if !same[name] && fields[name] != "" {
			out = append(out, name+"="+fields[name])
		}
	}
	link := "mailto:" + written
	if len(out) > 0 {
		link += "?" + strings.Join(out, "&")
	}
	return link
}

// encoded writes addresses as they are in an e-mail link.
func encoded(addresses []string) string {
	var out []string
	for _, a := range addresses {
		out = append(out, strings.NewReplacer("%", "%25", "?", "%3F", "&", "%26", "#", "%23", " ", "%20").Replace(a))
	}
	return strings.Join(out, ",")
}

// Mend returns the link with what can be put right without guessing put right, and whether that leaves no
// problem: separators, spaces and characters that were not encoded.
func Mend(value string) (string, bool) {
	scheme, rest, _ := strings.Cut(strings.TrimLeft(value, " \t\r\n"), ":")
	rest = strings.TrimPrefix(rest, "//")
	to, fields, hasFields := strings.Cut(rest, "?")
	if i := strings.IndexByte(to, '&'); i >= 0 && !hasFields && strings.Contains(to[i:], "=") {
		to, fields, hasFields = to[:i], to[i+1:], true
	}
	to = strings.ReplaceAll(to, ";", ",")
	parts := strings.Split(to, ",")
	kept := parts[:0]
	for _, p := range parts {
		if p = strings.TrimSpace(strings.ReplaceAll(p, "%20", " ")); p != "" {
			kept = append(kept, p)
		}
	}
	out := scheme + ":" + strings.Join(kept, ",")
	if hasFields {
		out += "?" + mendFields(fields)
	}
	return out, out != value && len(Parse(out).Problems) == 0
}

func mendFields(list string) string {
	list = strings.ReplaceAll(list, "?", "&")
	var out []string
	for part := range strings.SplitSeq(list, "&") {
		name, raw, ok := strings.Cut(part, "=")
		switch {
		case part == "":
		case !ok && len(out) > 0:
			out[len(out)-1] += "%26" + Encode(address.PercentDecode(part)) // an ampersand inside a text
		case !ok:
		default:
			if plusForSpace(raw) {
				raw = strings.ReplaceAll(raw, "+", " ")
			}
			out = append(out, strings.TrimSpace(name)+"="+Encode(address.PercentDecode(raw)))
		}
	}
	return strings.Join(out, "&")
}
