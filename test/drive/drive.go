// Package drive starts the real program and a real browser, for the end-to-end tests and the screenshots.
package drive

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"syscall"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
)

// Root returns the project's top folder.
func Root() string {
	_, file, _, _ := runtime.Caller(0)
	return filepath.Join(filepath.Dir(file), "..", "..")
}

// Program is a running Arvel.
type Program struct {
	// Address is where it is, with a slash at its end; Key what lets a browser in.
	Address, Key string

	cmd  *exec.Cmd
	done chan error
}

var says = regexp.MustCompile(`Arvel is at (http://\S+/)\?key=(\S+)`)

// Start starts bin/arvel with the arguments and waits until it says where it is.
func Start(args ...string) (*Program, error) {
	cmd := exec.Command(filepath.Join(Root(), "bin", "arvel"), args...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("bin/arvel can't be started; run make build: %w", err)
	}
	p := &Program{cmd: cmd, done: make(chan error, 1)}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if m := says.FindStringSubmatch(lines.Text()); m != nil {
			p.Address, p.Key = m[1], m[2]
			break
		}
	}
	go func() {
		io.Copy(io.Discard, out)
		p.done <- cmd.Wait()
	}()
	if p.Address == "" {
		return nil, errors.Join(errors.New("arvel ended before it said where it is"), <-p.done)
	}
	return p, nil
}

// Enter returns the address of a path of the program by which a browser gets in.
func (p *Program) Enter(path string) string {
	and := "?"
	if strings.Contains(path, "?") {
		and = "&"
	}
	return p.Address + path + and + "key=" + p.Key
}

// Stop ends the program as a user would, and waits for it.
func (p *Program) Stop() error { return p.end(syscall.SIGTERM) }

// Kill ends the program at once.
func (p *Program) Kill() error { return p.end(syscall.SIGKILL) }

func (p *Program) end(s os.Signal) error {
	if err := p.cmd.Process.Signal(s); err != nil {
		return err
	}
	select {
	case <-p.done:
		return nil
	case <-time.After(10 * time.Second):
		p.cmd.Process.Kill()
		return errors.New("arvel did not end within ten seconds")
	}
}

// Browser starts Debian's Chromium. Close it when done.
func Browser() (*rod.Browser, error) {
	bin, err := exec.LookPath("chromium")
	if err != nil {
		return nil, errors.New("there is no chromium; run make chromium")
	}
	l := launcher.New().Bin(bin).Headless(true).NoSandbox(true).Leakless(false).
		Delete("disable-site-isolation-trials").Set("disable-features", "TranslateUI").Set("site-per-process").
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("hide-scrollbars").Set("ignore-certificate-errors").Set("ignore-certificate-errors").Set("allow-file-access-from-files")
	address, err := l.Launch()
	if err != nil {
		return nil, err
	}
	b := rod.New().ControlURL(address).NoDefaultDevice() // which a frame of another site does not take
	return b, b.Connect()
}

// Eventually calls f until it returns true, for at most ten seconds.
func Eventually(f func() bool) bool {
	ctx, stop := context.WithTimeout(context.Background(), 10*time.Second)
	defer stop()
	for ctx.Err() == nil {
		if f() {
			return true
		}
		time.Sleep(20 * time.Millisecond)
	}
	return false
}
