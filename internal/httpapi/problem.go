package httpapi

import (
	"cmp"
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"

	"github.com/gin-gonic/gin"

	"arvel/api"
	"arvel/core/compose"
	"arvel/core/markup"
	"arvel/internal/workspace"
)

// quiet are the problems that are part of working with Arvel: something half typed, or gone or changed in the meantime. The
// interface prefers them (RFC 7240) with the status in the body alone, since browsers log every other answer as an error.
var quiet = map[int]bool{
	http.StatusNotFound: true, http.StatusConflict: true, http.StatusRequestEntityTooLarge: true, http.StatusUnprocessableEntity: true,
	http.StatusServiceUnavailable: true, http.StatusInsufficientStorage: true,
}

// writeProblem ends a request with a problem.
func writeProblem(c *gin.Context, p api.Problem) {
	c.Header("Content-Type", "application/problem+json")
	status := p.Status
	if quiet[status] && c.GetHeader("Prefer") == "quiet-problems" {
		status = http.StatusOK
	}
	c.AbortWithStatusJSON(status, p)
}

func problem(status int, title, detail string, files ...string) api.Problem {
	p := api.Problem{Status: status, Title: title}
	if detail != "" {
		p.Detail = &detail
	}
	if len(files) > 0 {
		p.Files = &files
	}
	return p
}

func badRequest(err error) api.Problem {
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		return tooLarge(large.Limit)
	}
	var slow net.Error
	if errors.As(err, &slow) && slow.Timeout() {
		return problem(http.StatusRequestTimeout, "What was sent took too long to arrive.", "")
	}
	return problem(http.StatusBadRequest, "Arvel doesn't know this request.", err.Error())
}

// problemOf turns an error into what the author reads. It is the one place where that is done.
func problemOf(err error) api.Problem {
	for _, row := range problems {
		if p, ok := row(err); ok {
			return p
		}
	}
	slog.Error("a request failed", "error", err)
	return problem(http.StatusInternalServerError, "Something in Arvel failed. Your files were not changed.", err.Error())
}

// problems are the errors that Arvel knows, each with what the author reads.
var problems = []func(error) (api.Problem, bool){
	of(func(e *workspace.OpenError) api.Problem {
		return problem(http.StatusUnprocessableEntity, e.Sentence, "")
	}),
	of(func(e *workspace.MissingError) api.Problem {
		return problem(http.StatusConflict, e.Error(), "Nothing was changed.")
	}),
	of(func(e *workspace.DamagedError) api.Problem {
		return problem(http.StatusInternalServerError, e.Error(), "")
	}),
	of(func(e *http.MaxBytesError) api.Problem { return tooLarge(e.Limit) }),
	is(workspace.ErrStopped, http.StatusConflict, "", ""),
	of(func(e *workspace.ConflictError) api.Problem {
		return problem(http.StatusConflict, e.Error(), "", e.Paths...)
	}),
	of(func(e *workspace.OccupiedError) api.Problem {
		return problem(http.StatusConflict, e.Error(), "", e.Path)
	}),
	of(func(e *workspace.FileInTheWayError) api.Problem {
		return problem(http.StatusConflict, e.Error(), "", e.Path)
	}),
	of(func(e *workspace.OutsideError) api.Problem {
		return problem(http.StatusUnprocessableEntity, e.Error(), "", e.Path)
	}),
	of(func(e *workspace.WriteError) api.Problem {
		return problem(http.StatusInsufficientStorage, e.Error(), "", e.Path)
	}),
	of(func(e *workspace.GoneError) api.Problem { return problem(http.StatusNotFound, e.Sentence, "") }),
	of(func(e *compose.PlaceError) api.Problem {
		return problem(http.StatusUnprocessableEntity, e.Sentence, "")
	}),
	of(func(e *workspace.NameError) api.Problem {
		return problem(http.StatusUnprocessableEntity, e.Sentence, "")
	}),
	of(func(e *workspace.ClashError) api.Problem {
		return problem(http.StatusConflict, e.Error(), "Nothing was changed.")
	}),
	of(func(e *workspace.SettingError) api.Problem {
		return problem(http.StatusUnprocessableEntity, e.Sentence, "")
	}),
	of(func(e *markup.EncodeError) api.Problem {
		return problem(http.StatusUnprocessableEntity, "The page's encoding lacks a letter: "+e.Error()+".", "")
	}),
	is(workspace.ErrNotReady, http.StatusServiceUnavailable, "", "It takes a moment more."),
	is(workspace.ErrUnknownFolder, http.StatusNotFound, "Arvel doesn't know this folder.", "Choose a folder to open."),
	is(context.Canceled, http.StatusServiceUnavailable, "The request was cancelled.", ""),
	is(fs.ErrNotExist, http.StatusNotFound, "The file is no longer there.", ""),
}

// of is a row of the table for errors of one type.
func of[E error](explain func(E) api.Problem) func(error) (api.Problem, bool) {
	return func(err error) (api.Problem, bool) {
		var e E
		if !errors.As(err, &e) {
			return api.Problem{}, false
		}
		return explain(e), true
	}
}

// is is a row of the table for one error. A title of "" stands for the error's own words.
func is(target error, status int, title, detail string) func(error) (api.Problem, bool) {
	return func(err error) (api.Problem, bool) {
		if !errors.Is(err, target) {
			return api.Problem{}, false
		}
		return problem(status, cmp.Or(title, err.Error()), detail), true
	}
}
