package mail

import "sync"

// shared are the receivers that are open in this program, by their place, with how many use each: an address can be listened at only once.
var shared = struct {
	mu   sync.Mutex
	open map[string]*Receiver
}{open: map[string]*Receiver{}}

// At takes mails at an address of this machine, host:port, as Listen, and shares the receiver that is open there already. Close it when
// done.
func At(address string) (*Receiver, error) {
	return sharedAt(address, func() (*Receiver, error) { return listen(address) })
}

// In takes the mails that are put into a folder, and shares the receiver that looks at it already. Close it when done.
func In(folder string) (*Receiver, error) {
	return sharedAt("in "+folder, func() (*Receiver, error) { return watch(folder) })
}

func sharedAt(place string, open func() (*Receiver, error)) (*Receiver, error) {
	shared.mu.Lock()
	defer shared.mu.Unlock()
	if r := shared.open[place]; r != nil {
		r.users++
		return r, nil
	}
	r, err := open()
	if err != nil {
		return nil, err
	}
	r.share(place)
	return r, nil
}

// share lets others find the receiver at a place. The caller holds the lock.
func (r *Receiver) share(place string) {
	r.place, r.users = place, 1
	shared.open[place] = r
}

// released tells whether the last user has closed the receiver.
func (r *Receiver) released() bool {
	shared.mu.Lock()
	defer shared.mu.Unlock()
	if r.users--; r.users > 0 {
		return false
	}
	delete(shared.open, r.place)
	return true
}
