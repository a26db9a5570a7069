package store

import (
	"errors"
	"fmt"
	"io/fs"
	"syscall"

	"github.com/mattn/go-sqlite3"
)

// Disk is what the disk under a database will not do.
type Disk string

// What may be wrong with it; empty where nothing is.
const (
	DiskFull     Disk = "full"
	DiskReadOnly Disk = "read_only"
	DiskDamaged  Disk = "damaged"
	DiskFails    Disk = "fails"
)

// DiskOf tells an error of the disk from any other: as the database says it, or as a file beside it does.
func DiskOf(err error) Disk {
	var e sqlite3.Error
	switch {
	case errors.As(err, &e):
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return DiskFull
	case errors.Is(err, syscall.EROFS), errors.Is(err, fs.ErrPermission):
		return DiskReadOnly
	default:
		return ""
	}
	switch e.Code {
	case sqlite3.ErrFull:
		return DiskFull
	case sqlite3.ErrReadonly, sqlite3.ErrPerm, sqlite3.ErrCantOpen:
		return DiskReadOnly
	case sqlite3.ErrCorrupt, sqlite3.ErrNotADB:
		return DiskDamaged
	case sqlite3.ErrIoErr:
		return DiskFails
	}
	return ""
}

// Freeze has the database refuse every write, as on a disk that has become read-only, or take them again. It is how
// that fault is tried.
func (s *Store) Freeze(on bool) error {
	return s.writer.Exec(fmt.Sprintf("PRAGMA query_only = %t", on)).Error
}
