// Package designing holds the commands that compute cases without a site.
package designing

import (
	"bufio"
	"fmt"
	"strconv"
	"time"

	"oddtick/cmd/oddtick/usage"
	"oddtick/core/array"

	"github.com/spf13/cobra"
)

// CoveringArrayCommand computes a covering array on its own.
func CoveringArrayCommand() *cobra.Command {
	var strength int
	c := &cobra.Command{
		Use:   "covering-array LEVELS",
		Short: "Compute a covering array: test rows that contain every combination of any two (or more) factors' levels",
		Long: `Computes a covering array. LEVELS is written as in '4^15 3^17 2^29': 15 factors of 4 levels, 17 of 3 and 29 of 2.

Each line is a row with one level per factor, counted from 1. The size is printed at the end, on standard error.`,
		Example: "  oddtick covering-array '2^10' --strength 3",
		GroupID: usage.Design, Annotations: usage.Exit("the array was computed", "", usage.Failed),
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			var levels []int
			for _, text := range args {
				more, err := array.ParseLevels(text)
				if err != nil {
					return err
				}
				levels = append(levels, more...)
			}
			started := time.Now()
			a, err := array.Cover(array.Problem{Levels: levels, Strength: strength, Effort: array.Thorough})
			if err != nil {
				return err
			}
			out := bufio.NewWriter(cmd.OutOrStdout())
			for _, row := range a.Rows {
				for f, level := range row {
					if f > 0 {
						out.WriteByte(' ')
					}
					out.WriteString(strconv.Itoa(level + 1))
				}
				out.WriteByte('\n')
			}
			if err := out.Flush(); err != nil {
				return err
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%d rows, at least %d are needed; %d combinations of strength %d; %.1f s\n", len(a.Rows), a.Least, a.Tuples, strength, time.Since(started).Seconds())
			return nil
		},
	}
	c.Flags().IntVar(&strength, "strength", 2, "cover every combination of this many factors' levels")
	return c
}
