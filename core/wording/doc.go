// Package wording turns what is known as data into sentences for people: verdicts, their causes, and what was expected and observed. It is
// the only place where they are worded, so that they can be changed here without anything else depending on them.
package wording
