package serving

import (
	"fmt"

	"oddtick/server/store"

	"github.com/spf13/cobra"
)

func KeyCommand() *cobra.Command {
	c := &cobra.Command{
		Use:   "key",
		Short: "Change the key that encrypts secrets",
		Long: `Works on the database of ODDTICK_DSN and the key file of ODDTICK_KEY_FILE, also while a server serves them.

` + variables[OwnData](),
	}
	c.AddCommand(onStore("rotate", "Make a new key, and encrypt every secret with it; of the keys before, the file keeps the latest", 0, rotateKey))
	return c
}

func rotateKey(cmd *cobra.Command, st *store.Store, _ []string) error {
	sites, err := store.RotateKey(cmd.Context(), st)
	if err != nil {
		return err
	}
	fmt.Fprintf(cmd.OutOrStdout(), "There is a new key, and the secrets of %s are encrypted with it. Keep a copy of the key file where you keep that of before.\n", counted(sites, "site"))
	return nil
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
