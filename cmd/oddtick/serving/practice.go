package serving

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"oddtick/cmd/oddtick/usage"
	"oddtick/practice"
	"oddtick/practice/sheds"

	"github.com/spf13/cobra"
	"golang.org/x/net/netutil"
)

// PracticeCommand serves the practice site.
func PracticeCommand() *cobra.Command {
	var addr, dsn, faults, mails, which string
	var list, switches, accounts bool
	var cost int
	c := &cobra.Command{
		Use:     "practice",
		Short:   "Serve a practice site with planted faults",
		Example: "  oddtick practice --dsn 'root@tcp(127.0.0.1:3306)/ostlewick' --faults username-cut --switches",
		GroupID: usage.Serve, Annotations: usage.Exit("it was ended", "", usage.Failed),
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			known := practice.Faults
			switch which {
			case "allotments":
			case "sheds":
				known = sheds.Faults
			default:
				return fmt.Errorf("there is no practice site %q; write --site allotments or --site sheds", which)
			}
			if list {
				for _, f := range known {
					fmt.Fprintf(cmd.OutOrStdout(), "%s\t%s\t%s\t%s\n", f.Name, f.Form, f.Check, f.Wrong)
				}
				return nil
			}
			if dsn == "" {
				return errors.New("practice needs --dsn, such as root@tcp(127.0.0.1:3306)/ostlewick")
			}
			l, err := Listen(addr)
			if err != nil {
				return err
			}
			defer l.Close()
			if which == "sheds" {
				site, err := sheds.Open(cmd.Context(), sheds.Config{DSN: dsn, Faults: strings.Split(faults, ","), HashMemory: cost})
				if err != nil {
					return err
				}
				defer site.Close()
				fmt.Fprintf(cmd.OutOrStdout(), "Ostlewick Sheds is at http://%s\n", l.Addr())
				return Serve(cmd.Context(), l, site.Handler(switches))
			}
			site, err := practice.Open(cmd.Context(), practice.Config{DSN: dsn, Faults: strings.Split(faults, ","), HashCost: cost, Accounts: accounts, Mail: mails, Public: "http://" + l.Addr().String()})
			if err != nil {
				return err
			}
			defer site.Close()
			fmt.Fprintf(cmd.OutOrStdout(), "Ostlewick Allotments is at http://%s\n", l.Addr())
			return Serve(cmd.Context(), l, site.Handler(switches))
		},
	}
	c.Flags().StringVar(&which, "site", "allotments", "which practice site: allotments, made by a server, or sheds, made by scripts that talk JSON")
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:4650", "address to listen on, loopback only")
	c.Flags().StringVar(&dsn, "dsn", "", "data source name of its MariaDB database, created if missing")
	c.Flags().StringVar(&faults, "faults", "", "faults to switch on, separated by commas")
	c.Flags().BoolVar(&accounts, "accounts", false, "create the accounts of the site document")
	c.Flags().StringVar(&mails, "mail", "", "send mail to the server at this host:port")
	c.Flags().BoolVar(&list, "list-faults", false, "list all faults: name, form, check, what is wrong")
	c.Flags().BoolVar(&switches, "switches", false, "offer the page /switches for switching faults")
	c.Flags().IntVar(&cost, "hash-cost", 19456, "memory of one password hash, in KiB")
	return c
}

// Listen opens a loopback address and names a taken port plainly.
func Listen(addr string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, fmt.Errorf("the address %q is not host:port", addr)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf("%s is not a loopback address; use 127.0.0.1", host)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("cannot listen on %s: %w; is another one running there? Choose another port", addr, err)
	}
	return l, nil
}

// maxConnections is how many may be open at once: some event streams for each of a hundred testers, and room for more.
const maxConnections = 2000

// Serve answers requests until ctx ends, then lets those under way finish.
func Serve(ctx context.Context, l net.Listener, h http.Handler) error {
	server := &http.Server{Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 20 * time.Second, MaxHeaderBytes: 64 << 10}
	l = netutil.LimitListener(l, maxConnections)
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
		end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 5*time.Second)
		defer cancel()
		if err := server.Shutdown(end); err != nil {
			return server.Close()
		}
		return nil
	}
}
