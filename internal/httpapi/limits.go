package httpapi

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"arvel/api"

	"github.com/gin-gonic/gin"
)

// What a request may send. Text that is being written comes with every keystroke, so a page has to fit; all else is small.
const (
	bodyLimit = 1 << 20
	textLimit = 64 << 20
	// DraftLimit is the size in bytes above which text that is not saved is not kept.
	DraftLimit = 32 << 20
)

// BodyTime is how long a body may take to arrive.
var BodyTime = time.Minute

// carriesText are the addresses, behind that of the folder, to which a page's text is sent.
var carriesText = map[string]int64{
	"source": textLimit, "judge": textLimit, "locate": textLimit, "offers": textLimit, "compose": textLimit, "bring": textLimit, "draft": DraftLimit, "pictures": textLimit,
}

// bounded bounds the size of a request's body and the time that it takes.
func bounded(c *gin.Context) {
	if c.Request.Body == nil || c.Request.ContentLength == 0 {
		c.Next()
		return
	}
	limit := int64(bodyLimit)
	if of, ok := carriesText[c.Request.URL.Path[strings.LastIndexByte(c.Request.URL.Path, '/')+1:]]; ok {
		limit = of
	}
	if c.Request.ContentLength > limit {
		writeProblem(c, tooLarge(limit))
		return
	}
	control := http.NewResponseController(c.Writer)
	_ = control.SetReadDeadline(time.Now().Add(BodyTime)) // where the connection has none, the body is there already
	c.Request.Body = &timed{http.MaxBytesReader(c.Writer, c.Request.Body, limit), control}
	c.Next()
}

func tooLarge(limit int64) api.Problem {
	return api.Problem{Status: http.StatusRequestEntityTooLarge, Title: fmt.Sprintf("That is more than Arvel takes at once, which is %d MB.", max(1, limit>>20))}
}

// timed is a body that lifts its deadline once it is read, so that what is done with it may take longer.
type timed struct {
	io.ReadCloser
	control *http.ResponseController
}

func (t *timed) Read(p []byte) (int, error) {
	n, err := t.ReadCloser.Read(p)
	if errors.Is(err, io.EOF) {
		_ = t.control.SetReadDeadline(time.Time{})
	}
	return n, err
}
