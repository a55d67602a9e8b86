package serving

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"text/tabwriter"

	"oddtick/cmd/oddtick/usage"
	"oddtick/server/api"
	"oddtick/server/passwords"
	"oddtick/server/store"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// UserCommand manages the users of a server.
func UserCommand() *cobra.Command {
	c := &cobra.Command{
		Example: "  oddtick user add maud",
		GroupID: usage.Serve, Annotations: usage.Exit("it was done", "", usage.Failed),
		Use:   "user",
		Short: "Add, list and remove the users of a server",
		Long: `Works on the database named in ODDTICK_DSN, also while a server runs. Passwords are asked for at the terminal; without a terminal, the
first line of standard input is read.

` + variables[OwnData](),
	}
	c.AddCommand(
		onStore("add NAME", "Add a user; the password is asked for", 1, addUser),
		onStore("password NAME", "Set a user's password; their sessions end", 1, setPassword),
		onStore("end NAME", "Stop a user from signing in; their sessions end, and their work stays theirs", 1, endUser),
		onStore("list", "List all users", 0, listUsers),
	)
	return c
}

// onStore is a command on Odd Tick's own data.
func onStore(use, short string, args int, do func(cmd *cobra.Command, st *store.Store, args []string) error) *cobra.Command {
	return &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(args), RunE: func(cmd *cobra.Command, args []string) error {
		set, err := readSettings[OwnData]()
		if err != nil {
			return err
		}
		st, err := openStore(cmd.Context(), set)
		if err != nil {
			return err
		}
		defer st.Close()
		return do(cmd, st, args)
	}}
}

func addUser(cmd *cobra.Command, st *store.Store, args []string) error {
	if why := api.WrongUserName(args[0]); why != "" {
		return errors.New(why)
	}
	password, err := askPassword(cmd, args[0])
	if err != nil {
		return err
	}
	if err := st.AddUser(cmd.Context(), args[0], password); errors.Is(err, store.ErrTaken) {
		return fmt.Errorf("there is a user %s already; oddtick user password %[1]s gives them another password", args[0])
	} else if err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s can sign in.\n", args[0])
	return nil
}

func setPassword(cmd *cobra.Command, st *store.Store, args []string) error {
	u, err := findUser(cmd.Context(), st, args[0])
	if err != nil {
		return err
	}
	password, err := askPassword(cmd, u.Name)
	if err != nil {
		return err
	}
	if err := st.SetPassword(cmd.Context(), u.ID, password); err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s has a new password; their sessions have ended.\n", u.Name)
	return nil
}

func endUser(cmd *cobra.Command, st *store.Store, args []string) error {
	u, err := findUser(cmd.Context(), st, args[0])
	if err != nil {
		return err
	}
	if err := st.EndUser(cmd.Context(), u.ID); err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "%s cannot sign in any more.\n", u.Name)
	return nil
}

func listUsers(cmd *cobra.Command, st *store.Store, _ []string) error {
	list, err := st.Users(cmd.Context())
	if err != nil {
		return err
	}
	w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
	for _, u := range list {
		ended := ""
		if u.EndedAt != nil {
			ended = "ended " + u.EndedAt.Format("2006-01-02")
		}
		fmt.Fprintf(w, "%s\tadded %s\t%s\n", u.Name, u.CreatedAt.Format("2006-01-02"), ended)
	}
	return w.Flush()
}

func findUser(ctx context.Context, st *store.Store, name string) (*store.User, error) {
	u, err := st.UserNamed(ctx, name)
	if errors.Is(err, store.ErrNotFound) {
		return nil, fmt.Errorf("there is no user %s who can sign in; oddtick user list tells all", name)
	}
	return u, err
}

// askPassword asks twice at a terminal; elsewhere it takes the first line of what comes in.
func askPassword(cmd *cobra.Command, name string) (string, error) {
	var password string
	if f, ok := cmd.InOrStdin().(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		var entered [2][]byte
		for i, prompt := range []string{"Password: ", "The same again: "} {
			fmt.Fprint(cmd.ErrOrStderr(), prompt)
			var err error
			entered[i], err = term.ReadPassword(int(f.Fd()))
			fmt.Fprintln(cmd.ErrOrStderr())
			if err != nil {
				return "", fmt.Errorf("read the password: %w", err)
			}
		}
		if !bytes.Equal(entered[0], entered[1]) {
			return "", errors.New("the two passwords are not the same")
		}
		password = string(entered[0])
	} else {
		line, err := bufio.NewReader(io.LimitReader(cmd.InOrStdin(), 4096)).ReadString('\n')
		if err != nil && !errors.Is(err, io.EOF) {
			return "", fmt.Errorf("read the password: %w", err)
		}
		password = passwords.FirstLine(line)
	}
	return password, passwords.Check(password, name)
}
