// Package hashed tells how a secret is stored: the kind of a hash by its form, and whether it is the hash of a text. The forms are those
// that passwords are usually written in: the modular crypt format and PHC's string format with their relatives, those of Django,
// Werkzeug, passlib and phpass, and salted digests.
package hashed
