package documents

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
)

// ToFile writes a file, or standard output for "-". A file is there whole or, where it cannot be written, as it was before.
func ToFile(name string, stdout io.Writer, write func(io.Writer) error) error {
	if name == "-" {
		return write(stdout)
	}
	if err := replace(name, write); err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	return nil
}

func replace(name string, write func(io.Writer) error) error {
	mode := os.FileMode(0o600) // what was tested, and with what, concerns nobody else on the machine
	if info, err := os.Stat(name); err == nil {
		if !info.Mode().IsRegular() { // a pipe, or a device
			f, err := os.OpenFile(name, os.O_WRONLY, 0)
			if err != nil {
				return err
			}
			defer f.Close()
			return write(f)
		}
		mode = info.Mode().Perm()
	}
	f, err := os.CreateTemp(filepath.Dir(name), ".oddtick-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if err := write(f); err != nil {
		return err
	}
	if err := f.Chmod(mode); err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}

// AddTo adds to the end of a file, which is made where it is missing.
func AddTo(name string, write func(io.Writer) error) error {
	f, err := os.OpenFile(name, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o600)
	if err == nil {
		err = write(f)
		if closed := f.Close(); err == nil {
			err = closed
		}
	}
	if err != nil {
		return fmt.Errorf("add to %s: %w", name, err)
	}
	return nil
}

// FileOf is the file of one form, or of another kind of report: its id stands before the ending where there are several.
func FileOf(file, id string, several bool) string {
	if dot := strings.LastIndex(file, "."); several && dot > 0 {
		return file[:dot] + "-" + id + file[dot:]
	}
	return file
}
