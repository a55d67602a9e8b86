// Package browser is a visitor with a real headless Chromium: pages are opened, controls are set as a person sets them, and what is
// seen is read from the page as it is drawn. Everything Chromium asks for goes through a guard that lets allowed addresses through
// and nothing else.
//
//	browser.go   the running Chromium and its tabs
//	guard.go     the proxy that contacts allowed hosts only
//	visitor.go   what a visitor does: open, submit, reload, look
//	enter.go     how each kind of control is set
//	keys.go      typing, key by key, without waiting for each
//	traffic.go   requests and answers, script errors, dialogs
//	watch.js     runs beside the page's scripts: what is seen, what comes and goes
//	watch.go     the calls into watch.js
//	drawn.go     a page's HTML after its scripts, for reading a form
package browser
