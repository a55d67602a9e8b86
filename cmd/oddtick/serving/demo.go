// Package serving holds the commands that serve: the server, its demo, its users and keys.
package serving

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"

	"oddtick/cmd/oddtick/usage"
	"oddtick/core/spec"
	"oddtick/examples"
	"oddtick/internal/localdb"
	"oddtick/observe/mail"
	"oddtick/practice"
	"oddtick/practice/sheds"
	"oddtick/server/api"
	"oddtick/server/contact"
	"oddtick/server/store"

	"github.com/spf13/cobra"
)

// demoHashCost keeps the practice site's password hashes cheap, in KiB.
const demoHashCost = 256

// DemoCommand starts everything with demo data.
func DemoCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "demo",
		Short: "Start Odd Tick with demo data, a practice site with planted faults, and a database",
		Long: `Starts a MariaDB on loopback in its own folder, the practice sites Ostlewick Allotments and Ostlewick Sheds with some faults
switched on, and Odd Tick with their documents. Nothing else is needed.

` + variables[DemoSettings](),
		Example: "  oddtick demo",
		GroupID: usage.Serve, Annotations: usage.Exit("it was ended", "", usage.Failed),
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			LogLevel.Set(slog.LevelWarn) // a newcomer reads the address, not each request
			set, err := readSettings[DemoSettings]()
			if err != nil {
				return err
			}
			if err := useLanguage(cmd, set.Language); err != nil {
				return err
			}
			return demo(cmd, set)
		},
	}
}

func demo(cmd *cobra.Command, set DemoSettings) error {
	ctx, out := cmd.Context(), cmd.OutOrStdout()
	if _, err := practice.ReadSwitches(slices.Concat(practice.Faults, sheds.Faults), set.Faults); err != nil {
		return err
	}
	l, err := Listen(set.Addr)
	if err != nil {
		return err
	}
	defer l.Close()
	lock, err := lockFolder(set.Data)
	if err != nil {
		return err
	}
	defer lock.Close()
	fmt.Fprintln(out, "Starting the database …")
	db, err := localdb.Start(ctx, filepath.Join(set.Data, "mariadb"))
	if err != nil {
		return err
	}
	defer db.Stop()
	go db.KeepUp(ctx, func(err error) {
		if err != nil {
			slog.Error("the demo's database ended, and cannot be started again", "error", err)
		} else {
			slog.Warn("the demo's database ended, and was started again")
		}
	})
	mails, err := mail.Listen("127.0.0.1:0")
	if err != nil {
		return err
	}
	// the site is there until the runs have ended, or else their last cases would find none
	lasting, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	site, siteAddr, err := startPractice(lasting, db, set.Faults, mails.Address())
	if err != nil {
		return err
	}
	defer site.Close()
	st, err := store.Open(ctx, db.DSN(localdb.OwnDatabase), filepath.Join(set.Data, "secret.key"))
	if err != nil {
		return err
	}
	defer st.Close()
	if err := loadDemo(ctx, st, examples.Ostlewick, "http://"+siteAddr, db.DSN("ostlewick"), mails.Address()); err != nil {
		return err
	}
	second, secondAddr, err := startSheds(lasting, db, set.Faults)
	if err != nil {
		return err
	}
	defer second.Close()
	if err := loadDemo(ctx, st, examples.Sheds, "http://"+secondAddr, db.DSN("sheds"), ""); err != nil {
		return err
	}
	if err := st.AddUser(ctx, set.Name, set.Password); err != nil && !errors.Is(err, store.ErrTaken) {
		return err
	}
	fmt.Fprintf(out, "Ostlewick Allotments, the practice site, is at http://%s (its faults: http://%s/switches)\n", siteAddr, siteAddr)
	fmt.Fprintf(out, "Its database is %s\n", db.DSN("ostlewick"))
	fmt.Fprintf(out, "Ostlewick Sheds, the second, is at http://%s (its faults: http://%s/switches)\n", secondAddr, secondAddr)
	if _, err := st.Authenticate(ctx, set.Name, set.Password); err == nil {
		fmt.Fprintf(out, "Sign in as %s with the password %s\n", set.Name, set.Password)
	} else {
		fmt.Fprintf(out, "Sign in as %s with the password that you have set\n", set.Name)
	}
	list, err := contact.Read(set.Contact)
	if err != nil {
		return err
	}
	return serveOn(cmd, l, st, api.Options{Contact: list}, mails, set.EvidenceMB, "http://"+l.Addr().String(), out)
}

// lockFolder keeps two demos from using one folder. The lock goes with the process, however it ends.
func lockFolder(folder string) (*os.File, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the demo's data folder: %w", err)
	}
	f, err := os.OpenFile(filepath.Join(folder, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, fmt.Errorf("lock the demo's data folder: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, fmt.Errorf("another demo uses the data folder %s; end it, or set ODDTICK_DATA to another folder", folder)
	}
	return f, nil
}

func startPractice(ctx context.Context, db *localdb.Server, faults []string, mails string) (*practice.Site, string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, "", fmt.Errorf("find a port for the practice site: %w", err)
	}
	site, err := practice.Open(ctx, practice.Config{DSN: db.DSN("ostlewick"), Faults: practice.Of(practice.Faults, faults), HashCost: demoHashCost, Accounts: true, Mail: mails, Public: "http://" + l.Addr().String()})
	if err != nil {
		l.Close()
		return nil, "", err
	}
	go func() {
		if err := Serve(ctx, l, site.Handler(true)); err != nil && ctx.Err() == nil {
			fmt.Fprintln(os.Stderr, "oddtick: the practice site ended:", err)
		}
	}()
	return site, l.Addr().String(), nil
}

func startSheds(ctx context.Context, db *localdb.Server, faults []string) (*sheds.Site, string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, "", fmt.Errorf("find a port for Ostlewick Sheds: %w", err)
	}
	site, err := sheds.Open(ctx, sheds.Config{DSN: db.DSN("sheds"), Faults: practice.Of(sheds.Faults, faults), HashMemory: demoHashCost})
	if err != nil {
		l.Close()
		return nil, "", err
	}
	go func() {
		if err := Serve(ctx, l, site.Handler(true)); err != nil && ctx.Err() == nil {
			fmt.Fprintln(os.Stderr, "oddtick: Ostlewick Sheds ended:", err)
		}
	}()
	return site, l.Addr().String(), nil
}

// loadDemo keeps the example project, with the addresses that hold for this start.
func loadDemo(ctx context.Context, st *store.Store, name, address, dsn, mails string) error {
	documents, err := examples.Documents(name)
	if err != nil {
		return err
	}
	var files []spec.File
	source := map[string][]byte{}
	for _, file := range slices.Sorted(maps.Keys(documents)) {
		files = append(files, spec.File{Name: file, Text: documents[file]})
		source[strings.TrimSuffix(file, ".yaml")] = documents[file]
	}
	project, err := spec.ReadProject(files)
	if err != nil {
		return fmt.Errorf("the example project: %w", err)
	}
	if project.Site == nil || len(project.Site.Databases) == 0 {
		return errors.New("the example project has no site document with a database")
	}
	project.Site.Address = address
	project.Site.Databases[0].DSN = dsn
	if mails != "" {
		project.Site.Mail = &spec.Mail{Receive: mails}
	}
	siteSource := source["site"]
	if known, err := st.Site(ctx, project.Site.Site); err == nil {
		// what was changed in the meantime stays; the addresses are this start's
		kept, err := st.SiteDocument(ctx, known.ID)
		if err != nil {
			return err
		}
		if siteSource, err = st.SiteSource(ctx, known.ID); err != nil {
			return err
		}
		kept.Address, kept.Mail = address, project.Site.Mail
		if len(kept.Databases) > 0 {
			kept.Databases[0].DSN = dsn
		}
		project.Site = kept
	}
	siteID, err := st.PutSite(ctx, project.Site, siteSource)
	if err != nil {
		return err
	}
	for _, f := range project.Forms {
		if _, err := st.Form(ctx, project.Site.Site, f.Form); err == nil {
			continue
		}
		if err := st.PutForm(ctx, siteID, store.Save{Form: f, File: f.Form + ".yaml", Source: source[f.Form]}); err != nil {
			return err
		}
	}
	return nil
}
