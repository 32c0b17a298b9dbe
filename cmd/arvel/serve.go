package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"syscall"

	"github.com/spf13/cobra"

	"arvel/demo"
	"arvel/internal/server"
)

// defaultPort is where Arvel listens if nothing else is said and nobody else does.
const defaultPort = 4178

func serveCommand() *cobra.Command {
	var data dataOptions
	port := defaultPort
	c := &cobra.Command{
		Use:   "serve [FOLDER]",
		Short: "Start Arvel, for use in the browser",
		Args:  cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			path := ""
			if len(args) > 0 {
				path = args[0]
			}
			return serve(c, &data, port, path)
		},
	}
	portFlag(c, &port)
	data.flags(c, false)
	return c
}

func portFlag(c *cobra.Command, port *int) {
	c.Flags().IntVar(port, "port", *port, "the port to listen on; 0 for any that is free")
}

func demoCommand() *cobra.Command {
	var data dataOptions
	port := defaultPort
	at := filepath.Join(os.TempDir(), "arvel-demo")
	c := &cobra.Command{
		Use:   "demo",
		Short: "Start Arvel on a copy of the demo folder, the seed library",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			folder := filepath.Join(at, "seed-library")
			if err := demo.CopyTo(folder); err != nil {
				return fmt.Errorf("the demo folder can't be copied to %s: %w", folder, err)
			}
			if !c.Flags().Changed("data") {
				data.dir = filepath.Join(at, "data")
			}
			return serve(c, &data, port, folder)
		},
	}
	portFlag(c, &port)
	data.flags(c, false)
	c.Flags().StringVar(&at, "at", at, "the directory that gets the copy; what was copied there before is replaced")
	return c
}

// serve starts the server and runs it until it is interrupted.
func serve(c *cobra.Command, data *dataOptions, port int, path string) error {
	st, err := data.open()
	if err != nil {
		return err
	}
	defer st.Close()
	lock, err := st.Lock()
	if err != nil {
		return err
	}
	defer lock.Release()
	l, err := listen(port, c.Flags().Changed("port"))
	if err != nil {
		return err
	}
	address := "http://" + l.Addr().String() + "/"
	if err := lock.Say(address); err != nil {
		return err
	}
	s := server.New(st)
	if path != "" {
		if err := s.Begin(path); err != nil {
			return err
		}
	}
	fmt.Fprintf(c.OutOrStdout(), "Arvel is at %s\n", address)
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	return s.Serve(ctx, l)
}

// listen takes the port on the loopback address. Where it is only the default and taken, any other will do.
func listen(port int, wanted bool) (net.Listener, error) {
	l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	if errors.Is(err, syscall.EADDRINUSE) && !wanted {
		return net.Listen("tcp", "127.0.0.1:0")
	}
	if err != nil {
		return nil, fmt.Errorf("port %d can't be used: %w", port, err)
	}
	return l, nil
}
