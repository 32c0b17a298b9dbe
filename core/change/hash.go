package change

import (
	"bytes"
	"crypto/sha256"
	"hash"
	"io"

	"github.com/zeebo/blake3"
)

// Hash stands for the bytes of a file: a byte that names the function, and the 32 bytes of its sum. The zero Hash is
// that of no file. Two hashes by one function are compared with ==; one that may have been kept by an older program is
// asked with [Hash.Is].
type Hash [33]byte

// The functions. SHA-256 is what the history of older programs holds; where a processor has no instructions for it, it
// took half of the time of reading a folder.
const (
	bySHA256 = iota
	byBLAKE3
)

// HashOf returns the hash of src, by BLAKE3.
func HashOf(src []byte) (h Hash) {
	sum := blake3.Sum256(src)
	h[0] = byBLAKE3
	copy(h[1:], sum[:])
	return h
}

// HashAll returns the hash of all that r reads.
func HashAll(r io.Reader) (Hash, error) { return hashAll(r, byBLAKE3) }

func hashAll(r io.Reader, by byte) (h Hash, err error) {
	var sum hash.Hash = blake3.New()
	if by == bySHA256 {
		sum = sha256.New()
	}
	_, err = io.Copy(sum, r)
	h[0] = by
	sum.Sum(h[:1])
	return h, err
}

// HashFrom returns the hash that was kept as b: 33 bytes, or the 32 of a SHA-256. Anything else is the hash of no file.
func HashFrom(b []byte) (h Hash) {
	switch len(b) {
	case len(h):
		copy(h[:], b)
	case sha256.Size:
		copy(h[1:], b)
	}
	return h
}

// Aged tells whether a hash was made by an older program, so that none of today's equals it.
func (h Hash) Aged() bool { return h[0] != byBLAKE3 }

// Is tells whether h is the hash of src.
func (h Hash) Is(src []byte) bool {
	if !h.Aged() {
		return h == HashOf(src)
	}
	got, err := hashAll(bytes.NewReader(src), h[0])
	return err == nil && got == h
}

// IsAll tells whether h is the hash of all that r reads, which it does not if there is an error.
func (h Hash) IsAll(r io.Reader) bool {
	got, err := hashAll(r, h[0])
	return err == nil && got == h
}
