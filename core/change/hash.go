package change

import (
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"hash"
	"io"

	"github.com/zeebo/blake3"
)

// Hash identifies the bytes of a file: a byte that names the function, and the 32 bytes of its sum. The zero Hash is
// that of no file. Two hashes by one function are compared with ==; one that may have been kept by an older program is
// asked with [Hash.Is].
type Hash [33]byte

// The functions. SHA-256 is what the history of older programs holds; where a processor has no instructions for it, it
// took half of the time of reading a folder.
const (
	bySHA256 = iota
	byBLAKE3
	bySamples // BLAKE3 of the size and of samples
)

// SampledFrom is the size in bytes from which a file without references is identified by samples alone: its
// size, and 64 pieces of 64 kB spread over it. A film is not read to the end only to show a folder.
const SampledFrom = 64 << 20

const (
	samples    = 64
	sampleSize = 64 << 10
)

// HashFile returns the hash of the size bytes of a file that holds no references: of all of them, or of samples from
// [SampledFrom] on.
func HashFile(r io.ReaderAt, size int64) (Hash, error) {
	if size < SampledFrom {
		return HashAll(io.NewSectionReader(r, 0, size))
	}
	return hashSamples(r, size)
}

func hashSamples(r io.ReaderAt, size int64) (h Hash, err error) {
	sum := blake3.New()
	fmt.Fprintln(sum, size)
	piece := make([]byte, sampleSize)
	for i := range int64(samples) {
		at := (size - sampleSize) * i / (samples - 1)
		n, err := r.ReadAt(piece, at)
		if err != nil && !errors.Is(err, io.EOF) {
			return h, err
		}
		sum.Write(piece[:n])
	}
	h[0] = bySamples
	sum.Sum(h[:1])
	return h, nil
}

// IsFile reports whether h is the hash of the size bytes that r holds, whichever way it was made.
func (h Hash) IsFile(r io.ReaderAt, size int64) bool {
	if h[0] != bySamples {
		return h.IsAll(io.NewSectionReader(r, 0, size))
	}
	if size < SampledFrom {
		return false
	}
	got, err := hashSamples(r, size)
	return err == nil && got == h
}

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

// Aged reports whether a hash was made by an older program, so that none of today's equals it.
func (h Hash) Aged() bool { return h[0] == bySHA256 }

// Is reports whether h is the hash of src.
func (h Hash) Is(src []byte) bool {
	if h[0] == byBLAKE3 {
		return h == HashOf(src)
	}
	return h.IsFile(bytes.NewReader(src), int64(len(src)))
}

// IsAll reports whether h is the hash of all that r reads, which it does not if there is an error.
func (h Hash) IsAll(r io.Reader) bool {
	got, err := hashAll(r, h[0])
	return err == nil && got == h
}
