package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"strconv"
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
	command.Flags().StringVar(listen, "listen", "127.0.0.1:7310", "address to listen on; beyond loopback, only those with the link that is printed come in")
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
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	s, err := store.Open(h.data)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	beyond := !loopback(listen)
	if beyond {
		hosts = append(hosts, addresses()...)
	}
	application := server.New(s, web.Page(), hosts...)
	if beyond {
		application.Protect(server.NewKey())
	}
	if demos {
		if err := application.Shelf().AddDemos(); err != nil {
			return err
		}
	}
	listener, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("%s cannot be listened on; choose another address with --listen: %w", listen, err)
	}
	fmt.Fprintf(h.out, "Myriapod is at http://%s%s (data in %s). Press Ctrl+C to stop.\n", reached(listener.Addr()), application.EntryPath(), h.data)
	serving := &http.Server{
		Handler: application.Handler(), ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 10 * time.Minute, WriteTimeout: 15 * time.Minute, IdleTimeout: 2 * time.Minute,
	}
	ended := make(chan struct{})
	context.AfterFunc(ctx, func() {
		defer close(ended)
		h.end(application, serving)
	})
	if err := serving.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	<-ended
	return nil
}

// longestEnd is how long what runs may take to end when the program is told to.
const longestEnd = 30 * time.Second

// end lets what runs come to its end, for a while, and says what it cut. What was acknowledged is kept in any case.
func (h *headless) end(application *server.Server, serving *http.Server) {
	application.Close()
	ending, cancel := context.WithTimeout(context.Background(), longestEnd)
	defer cancel()
	closed := make(chan error, 1)
	go func() { closed <- serving.Shutdown(ending) }() // nothing new comes in meanwhile
	cut := application.Finish(ending)
	if err := <-closed; err != nil {
		_ = serving.Close() // what still hangs has had its time
		fmt.Fprintf(h.err, "myriapod: requests that took longer than %s were cut; what was acknowledged is kept\n", longestEnd)
	}
	if cut > 0 {
		fmt.Fprintf(h.err, "myriapod: %d exports that took longer than %s were cut; export again\n", cut, longestEnd)
	}
}

// loopback tells whether an address to listen on is reached from this machine alone.
func loopback(listen string) bool {
	host, _, err := net.SplitHostPort(listen)
	if err != nil {
		return false
	}
	ip := net.ParseIP(host)
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// addresses lists the addresses of this machine.
func addresses() []string {
	var list []string
	all, _ := net.InterfaceAddrs() // without any, only the names given are answered to
	for _, address := range all {
		if network, ok := address.(*net.IPNet); ok {
			list = append(list, network.IP.String())
		}
	}
	return list
}

// reached is an address as it can be written into a browser: where the server listens on all, the first that other machines know.
func reached(address net.Addr) string {
	tcp, ok := address.(*net.TCPAddr)
	if !ok || !tcp.IP.IsUnspecified() {
		return address.String()
	}
	host := "localhost"
	for _, candidate := range addresses() {
		if ip := net.ParseIP(candidate); ip.To4() != nil && !ip.IsLoopback() {
			host = candidate
			break
		}
	}
	return net.JoinHostPort(host, strconv.Itoa(tcp.Port))
}
