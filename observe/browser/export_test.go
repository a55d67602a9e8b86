package browser

// WatchMemory ends the browser when it takes more than so many bytes.
func (b *Browser) WatchMemory(most int64) { b.watchMemory(most) }

// Family are a process and all that it has started.
var Family = family
