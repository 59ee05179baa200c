package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"myriapod/server"
	"myriapod/store"
	"myriapod/web"
)

func (h *headless) serveCommand() *cobra.Command {
	var listen string
	var hosts []string
	command := &cobra.Command{
		Use: "serve", Short: "Serve the application in the browser", Args: cobra.NoArgs,
		RunE: func(command *cobra.Command, _ []string) error {
			return h.serve(command.Context(), listen, hosts, false)
		},
	}
	addListen(command, &listen, &hosts)
	return command
}

func addListen(command *cobra.Command, listen *string, hosts *[]string) {
	command.Flags().StringVar(listen, "listen", "127.0.0.1:7310", "address to listen on")
	command.Flags().StringArrayVar(hosts, "host", nil, "name the server may be called by besides loopback; may be repeated")
}

func (h *headless) demoCommand() *cobra.Command {
	var list bool
	var listen string
	var hosts []string
	command := &cobra.Command{
		Use: "demo", Short: "Serve the application with the demo specimens on the Shelf", Args: cobra.NoArgs,
		RunE: func(command *cobra.Command, _ []string) error {
			if list {
				return h.listDemos()
			}
			return h.serve(command.Context(), listen, hosts, true)
		},
	}
	command.Flags().BoolVar(&list, "list", false, "name the demo specimens and stop")
	addListen(command, &listen, &hosts)
	return command
}

func (h *headless) serve(ctx context.Context, listen string, hosts []string, demos bool) (err error) {
	s, err := store.Open(h.data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	application := server.New(s, web.Page(), hosts...)
	if demos {
		if err := application.Shelf().AddDemos(); err != nil {
			return err
		}
	}
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("%s cannot be listened on; choose another address with --listen: %w", listen, err)
	}
	fmt.Fprintf(h.out, "Myriapod is at http://%s (data in %s). Press Ctrl+C to stop.\n", listener.Addr(), h.data)
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	serving := &http.Server{Handler: application.Handler(), ReadHeaderTimeout: 10 * time.Second}
	context.AfterFunc(ctx, func() {
		application.Close()
		ending, cancel := context.WithTimeout(context.Background(), 3*time.Second)
		defer cancel()
		_ = serving.Shutdown(ending) // what is still open after that ends with the process
	})
	if err := serving.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
