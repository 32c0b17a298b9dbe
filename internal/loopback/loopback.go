// Package loopback is how Arvel listens: on this machine alone, under the names by which a browser reaches it, and for whoever
// has the key.
package loopback

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// Listen takes a port on the loopback addresses of both families, as far as there are both, since a browser may take
// "localhost" for either; 0 for any port that is free.
func Listen(port int) ([]net.Listener, error) {
	first, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	if err != nil {
		return nil, err
	}
	taken := first.Addr().(*net.TCPAddr).Port
	second, err := net.Listen("tcp", net.JoinHostPort("::1", strconv.Itoa(taken)))
	switch {
	case err == nil:
		return []net.Listener{first, second}, nil
	case IsTaken(err):
		// Somebody else would get what a browser sends to "localhost".
		first.Close()
		if port == 0 {
			return Listen(0)
		}
		return nil, err
	}
	return []net.Listener{first}, nil // this machine has no IPv6
}

// IsTaken reports whether an error of [Listen] says that another program listens at the port.
func IsTaken(err error) bool { return errors.Is(err, syscall.EADDRINUSE) || errors.Is(err, errTaken) }

// Server returns a server with the limits of each connection, besides those of a body.
func Server(h http.Handler) *http.Server {
	return &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10}
}

// Hosts returns the names under which a browser on this machine reaches an address.
func Hosts(listening string) map[string]bool {
	_, port, err := net.SplitHostPort(listening)
	if err != nil {
		return nil
	}
	hosts := map[string]bool{listening: true}
	for _, name := range []string{"127.0.0.1", "localhost", "[::1]"} {
		hosts[fmt.Sprintf("%s:%s", name, port)] = true
		if port == "80" {
			hosts[name] = true
		}
	}
	return hosts
}

// Port returns the port of a Host header.
func Port(host string) string {
	_, port, err := net.SplitHostPort(host)
	if err != nil {
		return "80"
	}
	return port
}

// IsForeign reports whether a request was made by a page of another origin, on this machine (the preview) or elsewhere.
func IsForeign(r *http.Request) bool {
	site := r.Header.Get("Sec-Fetch-Site")
	return site == "cross-site" || site == "same-site"
}

// Random returns a text that nobody can guess.
func Random() string {
	var b [24]byte
	rand.Read(b[:])
	return base64.RawURLEncoding.EncodeToString(b[:])
}

// keyFile holds the key in the data directory, for the owner only, so that it is the same after a restart.
const keyFile = "arvel.key"

// Key returns the secret that lets a browser in: that of the data directory, or a new one where there is none.
func Key(dir string) (string, error) {
	if dir == "" {
		return Random(), nil
	}
	p := filepath.Join(dir, keyFile)
	b, err := os.ReadFile(p)
	if kept := strings.TrimSpace(string(b)); err == nil && len(kept) >= 32 {
		return kept, nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return "", err
	}
	fresh := Random()
	return fresh, os.WriteFile(p, []byte(fresh+"\n"), 0o600)
}

// Cookie returns the name under which a browser keeps the key of the server at a port. Cookies are those of a host, not of a
// port, so the port is part of the name.
func Cookie(kind, port string) string { return "arvel-" + kind + "-" + port }

// HasKey reports whether a request carries the key in the cookie of that name.
func HasKey(r *http.Request, name, key string) bool {
	c, err := r.Cookie(name)
	return err == nil && IsKey(c.Value, key)
}

// IsKey compares what was given with the key, in the same time whatever it is.
func IsKey(given, key string) bool {
	return subtle.ConstantTimeCompare([]byte(given), []byte(key)) == 1
}
