package change_test

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"testing"
	"testing/iotest"

	"arvel/core/change"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAHashStandsForItsBytes(t *testing.T) {
	long := bytes.Repeat([]byte("beans, "), 100_000)
	for _, src := range [][]byte{nil, []byte("a"), []byte("b"), long, long[1:]} {
		h := change.HashOf(src)
		old := sha256.Sum256(src)
		all, err := change.HashAll(iotest.OneByteReader(bytes.NewReader(src[:min(len(src), 3)])))
		require.NoError(t, err)
		assert.Equal(t, change.HashOf(src[:min(len(src), 3)]), all)
		for name, h := range map[string]change.Hash{"of today": h, "kept": change.HashFrom(h[:]), "of an older program": change.HashFrom(old[:])} {
			assert.True(t, h.Is(src), name)
			assert.True(t, h.IsAll(bytes.NewReader(src)), name)
			assert.False(t, h.Is(append([]byte("x"), src...)), name)
			assert.Equal(t, name == "of an older program", h.Aged())
			assert.False(t, h.IsAll(io.MultiReader(bytes.NewReader(src), iotest.ErrReader(errors.New("unplugged")))), name)
		}
	}
	assert.Equal(t, change.Hash{}, change.HashFrom([]byte("no hash")))
	assert.False(t, change.Hash{}.Is(nil))
	// What its makers give for no bytes at all.
	h := change.HashOf(nil)
	assert.Equal(t, "01af1349b9f5f9a1a6a0404dea36dcc9499bcb25c9adc112b7cc9a93cae41f3262", hex.EncodeToString(h[:]))
}
