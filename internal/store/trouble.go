package store

import (
	"errors"
	"syscall"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// code is SQLite's primary code of an error, 0 for another one.
func code(err error) int {
	var se *sqlite.Error
	if errors.As(err, &se) {
		return se.Code() & 0xff
	}
	return 0
}

// IsFull reports whether an error says that the disk is full.
func IsFull(err error) bool {
	return code(err) == sqlite3.SQLITE_FULL || errors.Is(err, syscall.ENOSPC)
}

// IsReadOnly reports whether an error says that the database cannot be written.
func IsReadOnly(err error) bool {
	return code(err) == sqlite3.SQLITE_READONLY || errors.Is(err, syscall.EROFS)
}
