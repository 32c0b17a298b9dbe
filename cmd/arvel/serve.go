package main

import (
	"fmt"
	"net"
	"os/exec"
	"path/filepath"
	"runtime"

	"github.com/spf13/cobra"

	"arvel/demo"
	"arvel/internal/httpapi"
	"arvel/internal/loopback"
	"arvel/internal/workspace"
)

// defaultPort is where Arvel listens if nothing else is said and nobody else does.
const defaultPort = 4178

func serveCommand() *cobra.Command {
	var data dataOptions
	port, openBrowser := defaultPort, false
	c := &cobra.Command{
		Use:   "serve [FOLDER]",
		Short: "Start Arvel, for use in the browser",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return serve(c, &data, port, openBrowser, func() (string, error) {
				if len(args) > 0 {
					return args[0], nil
				}
				return "", nil
			})
		},
	}
	portFlag(c, &port)
	openFlag(c, &openBrowser)
	data.flags(c, false)
	return c
}

func openFlag(c *cobra.Command, open *bool) {
	c.Flags().BoolVar(open, "open", false, "open the address in the browser")
}

func portFlag(c *cobra.Command, port *int) {
	c.Flags().IntVar(port, "port", *port, "the port to listen on; 0 for any that is free")
}

func demoCommand() *cobra.Command {
	var data dataOptions
	port, openBrowser, fresh := defaultPort, false, false
	at := filepath.Join(workspace.DefaultDir(), "demo")
	c := &cobra.Command{
		Use:   "demo",
		Short: "Start Arvel on a copy of the demo folder, the seed library",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			folder := filepath.Join(at, "seed-library")
			if !c.Flags().Changed("data") {
				data.dir = filepath.Join(at, "data")
			}
			return serve(c, &data, port, openBrowser, func() (string, error) {
				kept, err := demo.Lay(folder, fresh)
				if err != nil {
					return "", fmt.Errorf("the demo folder can't be copied to %s: %w", folder, err)
				}
				if kept {
					fmt.Fprintf(c.OutOrStdout(), "The demo folder at %s is as you left it; arvel demo --fresh begins it anew.\n", folder)
				}
				return folder, nil
			})
		},
	}
	portFlag(c, &port)
	openFlag(c, &openBrowser)
	data.flags(c, false)
	c.Flags().StringVar(&at, "at", at, "the directory that gets the copy")
	c.Flags().BoolVar(&fresh, "fresh", false, "replace an earlier copy, with all that was changed in it")
	return c
}

// serve starts the server and runs it until it is interrupted. folder is asked for the folder to begin with once nobody
// else works on the data directory.
func serve(c *cobra.Command, data *dataOptions, port int, openBrowser bool, folder func() (string, error)) error {
	ws, err := data.open(c, true)
	if err != nil {
		return err
	}
	defer ws.Close()
	lock, err := ws.Lock()
	if err != nil {
		return err
	}
	defer lock.Release()
	path, err := folder()
	if err != nil {
		return err
	}
	listeners, err := listen(port, c.Flags().Changed("port"))
	if err != nil {
		return err
	}
	s, err := httpapi.New(ws)
	if err != nil {
		return err
	}
	address := s.Address(listeners[0].Addr().(*net.TCPAddr).Port)
	if err := lock.Say(address); err != nil {
		return err
	}
	if path != "" {
		if err := s.Begin(path); err != nil {
			return err
		}
	}
	fmt.Fprintf(c.OutOrStdout(), "Arvel is at %s\n", address)
	if openBrowser {
		if err := browse(address); err != nil {
			fmt.Fprintln(c.ErrOrStderr(), "arvel: the browser could not be opened:", err)
		}
	}
	return s.Serve(c.Context(), listeners...)
}

// browse opens an address in the browser that the system is set to.
func browse(address string) error {
	name, args := "xdg-open", []string{address}
	switch runtime.GOOS {
	case "darwin":
		name = "open"
	case "windows":
		name, args = "rundll32", []string{"url.dll,FileProtocolHandler", address}
	}
	return exec.Command(name, args...).Start()
}

// listen takes the port on the loopback addresses. Where it is only the default and taken, any other will do.
func listen(port int, wanted bool) ([]net.Listener, error) {
	l, err := loopback.Listen(port)
	if loopback.IsTaken(err) && !wanted {
		return loopback.Listen(0)
	}
	if err != nil {
		return nil, fmt.Errorf("port %d can't be used: %w", port, err)
	}
	return l, nil
}
