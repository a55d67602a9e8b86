package serving

import (
	"fmt"
	"reflect"
	"strings"
	"text/tabwriter"
	"time"

	"oddtick/core/wording/phrases"

	"github.com/caarlos0/env/v11"
	"github.com/spf13/cobra"
)

// OwnData is exported, as the reader of the environment sets no other embedded struct; it is where Odd Tick keeps its own data.
type OwnData struct {
	DSN     string `env:"ODDTICK_DSN" doc:"Odd Tick's own MariaDB database, such as oddtick:secret@tcp(127.0.0.1:3306)/oddtick; it is created where it is missing"`
	KeyFile string `env:"ODDTICK_KEY_FILE" envDefault:"data/secret.key" doc:"the file with the key that encrypts secrets; it is made where it is missing"`
}

// ServeSettings are those of serve.
type ServeSettings struct {
	OwnData
	Addr       string        `env:"ODDTICK_ADDR" envDefault:"127.0.0.1:4640" doc:"the loopback address to listen on"`
	Public     string        `env:"ODDTICK_PUBLIC" doc:"where people reach Odd Tick, such as https://oddtick.example, where that is not the address it listens on"`
	Proxies    []string      `env:"ODDTICK_PROXIES" doc:"addresses or networks (CIDR) of proxies whose X-Forwarded-For and X-Forwarded-Proto are believed, separated by commas"`
	TLSCert    string        `env:"ODDTICK_TLS_CERTIFICATE" doc:"a file with the certificate in PEM, to be served by TLS without a proxy"`
	TLSKey     string        `env:"ODDTICK_TLS_KEY" doc:"a file with the certificate's key in PEM"`
	Contact    string        `env:"ODDTICK_CONTACT" doc:"a file with the hosts, databases and folders that sites may name; without it, loopback addresses alone"`
	Idle       time.Duration `env:"ODDTICK_SESSION_IDLE" envDefault:"8h" doc:"how long a session lasts that is not used"`
	Lifetime   time.Duration `env:"ODDTICK_SESSION_LIFETIME" envDefault:"168h" doc:"how long a session lasts at all"`
	EvidenceMB int64         `env:"ODDTICK_EVIDENCE_MB" envDefault:"256" doc:"how many megabytes the evidence of a run may take up"`
	Language   string        `env:"ODDTICK_LANGUAGE" envDefault:"en" doc:"language of titles, findings and reports: en or de"`
}

// DemoSettings are those of demo.
type DemoSettings struct {
	Addr       string   `env:"ODDTICK_ADDR" envDefault:"127.0.0.1:4640" doc:"the loopback address to listen on"`
	Data       string   `env:"ODDTICK_DATA" envDefault:"data/demo" doc:"the demo's folder"`
	Faults     []string `env:"ODDTICK_FAULTS" envDefault:"username-cut,membership-zeros,email-case-kept,message-misplaced,username-case" doc:"faults of the practice site that are on, separated by commas"`
	Name       string   `env:"ODDTICK_USER" envDefault:"tester" doc:"the name of the user that the demo makes"`
	Password   string   `env:"ODDTICK_PASSWORD" envDefault:"brook-side-42" doc:"that user's password at first"`
	EvidenceMB int64    `env:"ODDTICK_EVIDENCE_MB" envDefault:"256" doc:"how many megabytes the evidence of a run may take up"`
	Language   string   `env:"ODDTICK_LANGUAGE" envDefault:"en" doc:"language of titles, findings and reports: en or de"`
	Contact    string   `env:"ODDTICK_CONTACT" doc:"a file with the hosts, databases and folders that sites may name; without it, loopback addresses alone"`
}

// useLanguage makes the server speak the language of its settings, unless the command line names another.
func useLanguage(cmd *cobra.Command, language string) error {
	if cmd.Flags().Changed("language") {
		return nil
	}
	if err := phrases.Use(language); err != nil {
		return fmt.Errorf("ODDTICK_LANGUAGE: %w", err)
	}
	return nil
}

// readSettings reads a command's settings from the environment.
func readSettings[T any]() (T, error) {
	var s T
	if err := env.Parse(&s); err != nil {
		return s, fmt.Errorf("the settings in the environment: %w", err)
	}
	return s, nil
}

// variables lists the environment variables of a command's settings, each with its default.
func variables[T any]() string {
	var out strings.Builder
	w := tabwriter.NewWriter(&out, 0, 0, 2, ' ', 0)
	fmt.Fprintln(w, "Environment variables:")
	for _, f := range reflect.VisibleFields(reflect.TypeFor[T]()) {
		name := f.Tag.Get("env")
		if name == "" {
			continue
		}
		says := f.Tag.Get("doc")
		if usual := f.Tag.Get("envDefault"); usual != "" {
			says += " (" + usual + ")"
		}
		fmt.Fprintf(w, "  %s\t%s\n", name, says)
	}
	_ = w.Flush() // into memory
	return out.String()
}
