// Package contact holds what a server may contact for its users: the hosts, databases and folders that an administrator lets sites name.
package contact

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"net/netip"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"oddtick/core/spec"
	"oddtick/observe/database"
	"oddtick/observe/web"

	"github.com/goccy/go-yaml"
)

// List is what sites may name. The zero value lets them name this machine's loopback addresses, and no folder.
type List struct {
	// Hosts are host or host:port, both with * for any; "loopback" is every loopback address.
	Hosts []string `yaml:"hosts"`
	// Databases are host:port/name, with * for any; "loopback" is every database on a loopback address.
	Databases []string `yaml:"databases"`
	// Folders hold the SQLite files and folders of mails that may be opened.
	Folders []string `yaml:"folders"`

	// self is where Odd Tick itself listens, and data its own database, by what database.Identity says; neither may be named.
	self netip.AddrPort
	data string
}

// loopback stands in a list for every loopback address.
const loopback = "loopback"

// maxList is how long a file with a list may be, in bytes.
const maxList = 1 << 20

// Read reads a list from a file; without one only loopback may be named.
func Read(file string) (*List, error) {
	l := &List{Hosts: []string{loopback}, Databases: []string{loopback}}
	if file == "" {
		return l, nil
	}
	info, err := os.Stat(file)
	if err == nil && info.Size() > maxList {
		err = errors.New("it is larger than a megabyte")
	}
	if err != nil {
		return nil, fmt.Errorf("the list of what may be contacted, %s: %w", file, err)
	}
	text, err := os.ReadFile(file)
	if err != nil {
		return nil, fmt.Errorf("the list of what may be contacted: %w", err)
	}
	*l = List{}
	if err := yaml.UnmarshalWithOptions(text, l, yaml.Strict()); err != nil {
		return nil, fmt.Errorf("the list of what may be contacted, %s: %w", file, err)
	}
	for _, pattern := range slices.Concat(l.Hosts, l.Databases) {
		if _, err := path.Match(pattern, ""); err != nil || pattern == "" {
			return nil, fmt.Errorf("the list of what may be contacted, %s: %q is not a host, host:port or database; write * for any part", file, pattern)
		}
	}
	for _, pattern := range l.Databases {
		if pattern != loopback && !strings.Contains(pattern, "/") {
			return nil, fmt.Errorf("the list of what may be contacted, %s: the database %q is written like db.example:3306/shop, with * for any part", file, pattern)
		}
	}
	for _, folder := range l.Folders {
		if !filepath.IsAbs(folder) {
			return nil, fmt.Errorf("the list of what may be contacted, %s: the folder %q is written as a whole path, beginning with /", file, folder)
		}
	}
	return l, nil
}

// Never adds what no site may name: where Odd Tick listens, and its own database.
func (l *List) Never(self net.Addr, data string) {
	if a, err := netip.ParseAddrPort(self.String()); err == nil {
		l.self = a
	}
	l.data = data
}

// Check tells what a site names that this server may not contact. A database is asked who it is, to know Odd Tick's own.
func (l *List) Check(ctx context.Context, site *spec.Site) error {
	for _, at := range site.Everywhere() {
		if err := l.checkPlace(ctx, at); err != nil {
			if at.Environment() != "" {
				err = fmt.Errorf("in the environment %s, %w", at.Environment(), err)
			}
			return err
		}
	}
	return nil
}

func (l *List) checkPlace(ctx context.Context, site *spec.Site) error {
	base, err := url.Parse(site.Address)
	if err != nil || base.Host == "" {
		return fmt.Errorf("the site's address %q must begin with http:// or https://, like http://127.0.0.1:4650", site.Address)
	}
	if err := l.host(base.Hostname(), web.PortOf(base)); err != nil {
		return err
	}
	for _, h := range site.Allowed {
		host, port, err := net.SplitHostPort(h)
		if err != nil {
			host, port = strings.Trim(h, "[]"), ""
		}
		if err := l.host(host, port); err != nil {
			return err
		}
	}
	if m := site.Mail; m != nil && m.Folder != "" {
		if err := l.file(m.Folder); err != nil {
			return err
		}
	}
	for _, d := range site.Databases {
		if d.DSN == "" {
			continue
		}
		if err := l.database(ctx, d.Kind, d.DSN); err != nil {
			return err
		}
	}
	return nil
}

func (l *List) host(host, port string) error {
	if port == fmt.Sprint(l.self.Port()) && isLoopback(host) {
		return fmt.Errorf("%s is Odd Tick itself", net.JoinHostPort(host, port))
	}
	if isLoopback(host) && slices.Contains(l.Hosts, loopback) {
		return nil
	}
	for _, pattern := range l.Hosts {
		if matches(pattern, host) || matches(pattern, net.JoinHostPort(host, port)) {
			return nil
		}
	}
	return fmt.Errorf("this server may not contact %s; an administrator adds it to the hosts in the file of ODDTICK_CONTACT", net.JoinHostPort(host, port))
}

// isLoopback tells whether a host is written as this machine: a loopback address, or localhost.
func isLoopback(host string) bool {
	a, err := netip.ParseAddr(host)
	return strings.EqualFold(host, "localhost") || err == nil && a.Unmap().IsLoopback()
}

func matches(pattern, text string) bool {
	ok, err := path.Match(strings.ToLower(pattern), strings.ToLower(text))
	return ok && err == nil
}

func (l *List) database(ctx context.Context, kind, dsn string) error {
	to, err := database.TargetOf(kind, dsn)
	if err != nil {
		return err
	}
	if to.Host == "" {
		return l.file(to.Name)
	}
	named := net.JoinHostPort(to.Host, to.Port) + "/" + to.Name
	let := isLoopback(to.Host) && slices.Contains(l.Databases, loopback) || slices.ContainsFunc(l.Databases, func(pattern string) bool { return matches(pattern, named) })
	if !let {
		return fmt.Errorf("this server may not open the database %s; an administrator adds it to the databases in the file of ODDTICK_CONTACT", named)
	}
	if l.data == "" || to.Kind != "mariadb" && to.Kind != "mysql" {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, askWithin)
	defer cancel()
	if is, err := database.Identity(ctx, dsn); err == nil && is == l.data {
		return fmt.Errorf("the database %s is Odd Tick's own", named)
	}
	return nil
}

// askWithin is how long a database may take to say who it is. One that does not answer is said so where it is used.
const askWithin = 5 * time.Second

// file tells whether an SQLite file may be opened. What lies outside the folders is not looked at, so that nothing is told of it.
func (l *List) file(name string) error {
	refused := fmt.Errorf("this server may not open the file %s; an administrator adds its folder to the folders in the file of ODDTICK_CONTACT", name)
	if !filepath.IsAbs(name) {
		return fmt.Errorf("the path of the file %s is not whole; begin it with /", name)
	}
	within := func(name string) bool {
		return slices.ContainsFunc(l.Folders, func(folder string) bool {
			inner, err := filepath.Rel(folder, name)
			return err == nil && filepath.IsLocal(inner)
		})
	}
	if !within(filepath.Clean(name)) {
		return refused
	}
	real, err := filepath.EvalSymlinks(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil // said where it is opened
	}
	if err != nil || !within(real) {
		return refused
	}
	return nil
}
