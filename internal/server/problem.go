package server

import (
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
	"arvel/internal/folder"
	"arvel/internal/store"
	"arvel/internal/workbench"
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
	return problem(http.StatusBadRequest, "The request is not one that Arvel knows.", err.Error())
}

// problemOf turns an error into what the author is told. It is the one place where that is done.
func problemOf(err error) api.Problem {
	var (
		open     *folder.OpenError
		conflict *folder.ConflictError
		write    *folder.WriteError
		occupied *folder.OccupiedError
		outside  *folder.OutsideError
		inTheWay *folder.FileInTheWayError
		gone     *workbench.GoneError
		setting  *workbench.SettingError
		clash    *workbench.ClashError
		place    *compose.PlaceError
		name     *workbench.NameError
		letters  *markup.EncodeError
		missing  *folder.MissingError
		damaged  *store.DamagedError
		large    *http.MaxBytesError
	)
	switch {
	case errors.As(err, &open):
		return problem(http.StatusUnprocessableEntity, open.Sentence, "")
	case errors.As(err, &missing):
		return problem(http.StatusConflict, missing.Error(), "Nothing was changed.")
	case errors.As(err, &damaged):
		return problem(http.StatusInternalServerError, damaged.Error(), "")
	case errors.As(err, &large):
		return tooLarge(large.Limit)
	case errors.Is(err, folder.ErrStopped):
		return problem(http.StatusConflict, err.Error(), "")
	case errors.As(err, &conflict):
		return problem(http.StatusConflict, conflict.Error(), "", conflict.Paths...)
	case errors.As(err, &occupied):
		return problem(http.StatusConflict, occupied.Error(), "", occupied.Path)
	case errors.As(err, &inTheWay):
		return problem(http.StatusConflict, inTheWay.Error(), "", inTheWay.Path)
	case errors.As(err, &outside):
		return problem(http.StatusUnprocessableEntity, outside.Error(), "", outside.Path)
	case errors.As(err, &write):
		return problem(http.StatusInsufficientStorage, write.Error(), "", write.Path)
	case errors.As(err, &gone):
		return problem(http.StatusNotFound, gone.Sentence, "")
	case errors.As(err, &place):
		return problem(http.StatusUnprocessableEntity, place.Sentence, "")
	case errors.As(err, &name):
		return problem(http.StatusUnprocessableEntity, name.Sentence, "")
	case errors.As(err, &clash):
		return problem(http.StatusConflict, clash.Error(), "Nothing was changed.")
	case errors.As(err, &setting):
		return problem(http.StatusUnprocessableEntity, setting.Sentence, "")
	case errors.As(err, &letters):
		return problem(http.StatusUnprocessableEntity, "The page's encoding lacks a letter: "+letters.Error()+".", "")
	case errors.Is(err, workbench.ErrNotReady):
		return problem(http.StatusServiceUnavailable, err.Error(), "It takes a moment longer.")
	case errors.Is(err, store.ErrNotFound):
		return problem(http.StatusNotFound, "Arvel does not know that folder.", "Choose a folder to open.")
	case errors.Is(err, context.Canceled):
		return problem(http.StatusServiceUnavailable, "Whoever asked for it has left.", "")
	case errors.Is(err, fs.ErrNotExist):
		return problem(http.StatusNotFound, "The file is not there any more.", "")
	}
	slog.Error("a request failed", "error", err)
	return problem(http.StatusInternalServerError, "Something in Arvel failed; your files were not changed by it.", err.Error())
}
