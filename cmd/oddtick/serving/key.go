package serving

import (
	"fmt"

	"oddtick/cmd/oddtick/usage"
	"oddtick/server/store"

	"github.com/spf13/cobra"
)

// KeyCommand changes the key that encrypts secrets.
func KeyCommand() *cobra.Command {
	c := &cobra.Command{
		Example: "  oddtick key rotate",
		GroupID: usage.Serve, Annotations: usage.Exit("it was done", "", usage.Failed),
		Use:   "key",
		Short: "Change the key that encrypts secrets",
		Long: `Works on the database named in ODDTICK_DSN and the key file named in ODDTICK_KEY_FILE, also while a server runs.

` + variables[OwnData](),
	}
	c.AddCommand(onStore("rotate", "Make a new key and encrypt every secret with it; the file keeps the previous key", 0, rotateKey))
	return c
}

func rotateKey(cmd *cobra.Command, st *store.Store, _ []string) error {
	sites, err := store.RotateKey(cmd.Context(), st)
	if err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "There is a new key, and the secrets of %s are encrypted with it. Keep a copy of the key file where you keep the previous one.\n", counted(sites, "site"))
	return nil
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
