// Package browser sees a site through a real headless Chromium. Everything it asks for goes through a guard that lets allowed
// addresses through and nothing else.
package browser
