package main

import (
	"errors"
	"fmt"
	"io"
	"net"

	"oddtick/observe/mail"
	"oddtick/server"
	"oddtick/server/store"
	"oddtick/web"

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"
)

// settings come from the environment; all have defaults but the database of serve.
type settings struct {
	Addr string `env:"ODDTICK_ADDR" envDefault:"127.0.0.1:4640"`
	// DSN is Odd Tick's own database.
	DSN     string `env:"ODDTICK_DSN"`
	KeyFile string `env:"ODDTICK_KEY_FILE" envDefault:"data/secret.key"`
	// Data is the demo's folder, Faults those switched on in it.
	Data   string   `env:"ODDTICK_DATA" envDefault:"data/demo"`
	Faults []string `env:"ODDTICK_FAULTS" envDefault:"username-cut,membership-zeros,email-case-kept,message-misplaced,username-case"`
	// Evidence is how many megabytes the evidence of a run may take up.
	Evidence int64 `env:"ODDTICK_EVIDENCE_MB" envDefault:"256"`
	// Name and Password are of the user made at the first start.
	Name     string `env:"ODDTICK_USER" envDefault:"tester"`
	Password string `env:"ODDTICK_PASSWORD" envDefault:"brook-side-42"`
}

func readSettings() (settings, error) {
	var s settings
	if err := env.Parse(&s); err != nil {
		return s, fmt.Errorf("the settings in the environment: %w", err)
	}
	return s, nil
}

func serveCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "serve",
		Short: "Serve Odd Tick on the database of ODDTICK_DSN",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			set, err := readSettings()
			if err != nil {
				return err
			}
			if set.DSN == "" {
				return errors.New("serve needs ODDTICK_DSN, such as oddtick:secret@tcp(127.0.0.1:3306)/oddtick")
			}
			l, err := listen(set.Addr)
			if err != nil {
				return err
			}
			st, err := store.Open(cmd.Context(), set.DSN, set.KeyFile)
			if err != nil {
				return err
			}
			defer st.Close()
			if err := st.PutUser(cmd.Context(), set.Name, set.Password); err != nil {
				return err
			}
			return serveOn(cmd, l, st, nil, set.Evidence, cmd.OutOrStdout())
		},
	}
}

// serveOn serves until the command ends; mails is a receiver that is open already, or nil, and evidence how many megabytes a run keeps.
func serveOn(cmd *cobra.Command, l net.Listener, st *store.Store, mails *mail.Receiver, evidence int64, out io.Writer) error {
	s := server.New(st, web.Dist())
	defer s.Close()
	s.KeepEvidence(evidence << 20)
	if mails != nil {
		s.Receive(mails)
	}
	if err := s.GoOn(cmd.Context()); err != nil {
		return err
	}
	fmt.Fprintf(out, "Odd Tick is at http://%s\n", l.Addr())
	return serve(cmd.Context(), l, s)
}

func openAPICommand() *cobra.Command {
	return &cobra.Command{
		Use:    "openapi",
		Short:  "Print the API's OpenAPI document",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := server.OpenAPI()
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
}
