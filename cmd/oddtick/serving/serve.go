package serving

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"os"
	"sync"
	"time"

	"oddtick/cmd/oddtick/usage"
	"oddtick/core/wording"
	"oddtick/observe/database"
	"oddtick/observe/mail"
	"oddtick/server/api"
	"oddtick/server/contact"
	"oddtick/server/gate"
	"oddtick/server/store"
	"oddtick/web"

	"github.com/spf13/cobra"
)

// ServeCommand serves Odd Tick.
func ServeCommand() *cobra.Command {
	asRoot := false
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve Odd Tick on the database named in ODDTICK_DSN",
		Long: `Serves Odd Tick until it is stopped. If there is no user yet, it prints a link that works once, with which the first user chooses a name
and a password. Add more users with oddtick user add.

` + variables[ServeSettings](),
		Example: "  ODDTICK_DSN='oddtick:password@tcp(127.0.0.1:3306)/oddtick' oddtick serve",
		GroupID: usage.Serve, Annotations: usage.Exit("it was stopped", "", usage.Failed),
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if os.Getuid() == 0 && !asRoot {
				return errors.New("root is not needed to serve Odd Tick; start it as a user of its own, or with --as-root in a container")
			}
			set, err := readSettings[ServeSettings]()
			if err != nil {
				return err
			}
			if err := useLanguage(cmd, set.Language); err != nil {
				return err
			}
			return serveOwn(cmd, set)
		},
	}
	c.Flags().BoolVar(&asRoot, "as-root", false, "serve even when started by root")
	return c
}

func serveOwn(cmd *cobra.Command, set ServeSettings) error {
	list, err := contact.Read(set.Contact)
	if err != nil {
		return err
	}
	o := api.Options{Gate: gate.Options{Proxies: set.Proxies, Idle: set.Idle, Lifetime: set.Lifetime}, Contact: list}
	if set.Public != "" {
		u, err := url.Parse(set.Public)
		if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || u.Path != "" && u.Path != "/" {
			return fmt.Errorf("ODDTICK_PUBLIC is %q; write it like https://oddtick.example", set.Public)
		}
		o.Gate.Public = u
	}
	l, err := Listen(set.Addr)
	if err != nil {
		return err
	}
	defer l.Close()
	address := "http://" + l.Addr().String()
	if set.TLSCert != "" || set.TLSKey != "" {
		pair, err := tls.LoadX509KeyPair(set.TLSCert, set.TLSKey)
		if err != nil {
			return fmt.Errorf("ODDTICK_TLS_CERTIFICATE and ODDTICK_TLS_KEY: %w", err)
		}
		l = tls.NewListener(l, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12, NextProtos: []string{"http/1.1"}})
		address = "https://" + l.Addr().String()
	}
	if o.Gate.Public != nil {
		address = o.Gate.Public.Scheme + "://" + o.Gate.Public.Host
	}
	st, err := openStore(cmd.Context(), set.OwnData)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := inviteFirst(cmd.Context(), st, address, cmd.OutOrStdout()); err != nil {
		return err
	}
	return serveOn(cmd, l, st, o, nil, set.EvidenceMB, address, cmd.OutOrStdout())
}

// openStore opens Odd Tick's own data.
func openStore(ctx context.Context, set OwnData) (*store.Store, error) {
	if set.DSN == "" {
		return nil, errors.New("ODDTICK_DSN is not set; it names Odd Tick's own database, such as oddtick:secret@tcp(127.0.0.1:3306)/oddtick")
	}
	return store.Open(ctx, set.DSN, set.KeyFile)
}

// inviteFirst prints a link with which the first user sets name and password, where there is none.
func inviteFirst(ctx context.Context, st *store.Store, address string, out io.Writer) error {
	any, err := st.HasUser(ctx)
	if err != nil || any {
		return err
	}
	token, err := st.Invite(ctx, time.Now().Add(24*time.Hour))
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "There is no user yet. Open this link within a day to set the first user's name and password:\n  %s/first-user#%s\n", address, token)
	return nil
}

// serveOn serves until the command ends; mails is a receiver that is open already, or nil, and evidence how many megabytes a run keeps.
func serveOn(cmd *cobra.Command, l net.Listener, st *store.Store, o api.Options, mails *mail.Receiver, evidence int64, address string, out io.Writer) error {
	data, err := database.IdentityOf(cmd.Context(), st.DB())
	if err != nil {
		return fmt.Errorf("ask Odd Tick's own database who it is: %w", err)
	}
	o.Contact.Never(l.Addr(), data)
	s, err := api.New(st, web.Dist(), o)
	if err != nil {
		return err
	}
	defer s.Close()
	s.KeepEvidence(evidence << 20)
	if mails != nil {
		s.Receive(mails)
	}
	fmt.Fprintf(out, "Odd Tick is at %s\n", address)
	var resuming sync.WaitGroup
	resuming.Go(func() { // runs wait for sites and databases that may not answer; who comes meanwhile does not
		s.ResumeRuns(cmd.Context())
	})
	defer resuming.Wait()
	return Serve(cmd.Context(), l, s)
}

// WordsCommand writes the names that the front end shows where the API has codes.
func WordsCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "words",
		Short:  "Print the names of checks for the front end",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			_, err := cmd.OutOrStdout().Write(wording.TypeScript())
			return err
		},
	}
}

func OpenAPICommand() *cobra.Command {
	return &cobra.Command{
		Use:    "openapi",
		Short:  "Print the API's OpenAPI document",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := api.OpenAPI()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
}
