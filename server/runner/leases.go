package runner

import (
	"cmp"
	"context"
	"fmt"
	"net"
	"net/netip"
	"net/url"
	"path/filepath"
	"strings"
	"time"

	"oddtick/core/spec"
	"oddtick/observe/database"
	"oddtick/server/lease"
	"oddtick/server/store"
)

// Hold keeps a site, its address and its databases for one run, or for submissions by hand, until it is freed: two at once could not tell
// whose rows are whose. Errors: errEnding, *lease.HeldError.
func (r *Runner) Hold(ctx context.Context, site *spec.Site) (*lease.Lease, error) {
	r.mu.Lock()
	ending := r.ending
	r.mu.Unlock()
	if ending {
		return nil, ErrEnding
	}
	return lease.Hold(ctx, r.store, cmp.Or(site.Title, site.Site), touched(ctx, site)...)
}

// holdRun keeps a run for the one server that drives it.
func (r *Runner) holdRun(ctx context.Context, formID, seed int64) (*lease.Lease, error) {
	return lease.Hold(ctx, r.store, "the server that drives it", fmt.Sprintf("run %d of form %d", seed, formID))
}

// touched names what a run of a site touches: the site, its address, and its databases, however they are spelled.
func touched(ctx context.Context, site *spec.Site) []string {
	names := []string{"site " + site.Site}
	if u, err := url.Parse(site.Address); err == nil && u.Host != "" {
		names = append(names, "address "+hostOf(u.Host)+strings.TrimRight(u.Path, "/"))
	}
	for i := range site.Databases {
		if name := databaseName(ctx, &site.Databases[i]); name != "" {
			names = append(names, "database "+name)
		}
	}
	return names
}

// askIdentity is how long a database is asked which one it is.
const askIdentity = 3 * time.Second

func databaseName(ctx context.Context, db *spec.Database) string {
	target, err := database.TargetOf(db.Kind, db.DSN)
	if err != nil {
		return ""
	}
	if target.Host == "" {
		if path, err := filepath.Abs(target.Name); err == nil {
			return path
		}
		return target.Name
	}
	ctx, cancel := context.WithTimeout(ctx, askIdentity)
	defer cancel()
	if is, err := database.Identity(ctx, db.DSN); err == nil {
		return is
	}
	return hostOf(net.JoinHostPort(target.Host, target.Port)) + "/" + target.Name
}

// hostOf spells a host and port alike whichever of its names for this machine is used.
func hostOf(host string) string {
	name, port, err := net.SplitHostPort(host)
	if err != nil {
		name = strings.Trim(host, "[]")
	}
	name = strings.ToLower(name)
	if ip, err := netip.ParseAddr(name); name == "localhost" || err == nil && ip.Unmap().IsLoopback() {
		name = "loopback"
	}
	return name + ":" + port
}

// watch ends a run's work here when its lease is lost, or when somebody asks for its end at another server.
func (r *Runner) watch(ctx context.Context, a *activeRun, kept *store.Run) {
	tick := time.NewTicker(stopLook)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-a.run.Lost():
			a.stop()
			return
		case <-a.site.Lost():
			a.stop()
			return
		case <-tick.C:
		}
		if asked, err := r.store.StopAsked(ctx, kept.ID); err == nil && asked {
			r.Stop(kept.ID)
			return
		}
	}
}

// stopLook is how often it is looked whether a run was asked to stop at another server.
const stopLook = 2 * time.Second
