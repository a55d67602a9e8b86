// Package database watches tables: which rows were inserted, changed and deleted between two looks. One file a kind of server.
package database
