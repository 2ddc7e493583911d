package app

import (
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"prairiedusk/internal/server"
)

// folderFormat is the version of the data folder's layout.
const folderFormat = 1

// A folder is the data folder, held by this process alone: `postgres` for the private cluster, `token` for
// what clients show, `service.json` for where they find the service.
type folder struct {
	path string
	lock *os.File
}

// openFolder makes the folder on first use, for its owner alone, and locks it. It takes an empty folder, or one that an earlier
// start has made, and never one with other things in it: whoever names the wrong one loses nothing.
func openFolder(path string) (*folder, error) {
	path, err := filepath.Abs(path)
	if err != nil {
		return nil, err
	}
	another := func(err error) error { return fmt.Errorf("the data folder: %w; choose another with --data", err) }
	if err := os.MkdirAll(path, 0o700); err != nil {
		return nil, another(err)
	}
	if err := checkOurs(path); err != nil {
		return nil, another(err)
	}
	if err := os.Chmod(path, 0o700); err != nil {
		return nil, another(err)
	}
	f := &folder{path: path}
	if f.lock, err = os.OpenFile(f.file(lockFile), os.O_CREATE|os.O_RDWR|syscall.O_NOFOLLOW, 0o600); err != nil {
		return nil, another(err)
	}
	if err := f.take(); err != nil {
		f.lock.Close()
		return nil, err
	}
	// Whoever left it there holds the folder no more.
	if err := errors.Join(f.announce(""), f.checkFormat()); err != nil {
		f.close()
		return nil, err
	}
	return f, nil
}

// The files in the folder.
const (
	lockFile     = "lock"
	formatFile   = "format"
	tokenFile    = "token"
	addressFile  = "service.json"
	sessionsFile = "sessions"
	clusterOf    = "postgres"
	unfinishedOf = ".unfinished" // ending of a file that is being written
)

// checkOurs says why a folder is none that a service may take.
func checkOurs(path string) error {
	info, err := os.Lstat(path)
	if err != nil {
		return err
	}
	if info.Mode()&fs.ModeSymlink != 0 {
		return fmt.Errorf("%s is a symbolic link; name the folder itself", path)
	}
	entries, err := os.ReadDir(path)
	if err != nil {
		return err
	}
	ours, strange := false, ""
	for _, e := range entries {
		name := e.Name()
		whole := e.Type().IsRegular() || name == clusterOf && e.IsDir()
		switch {
		case !whole && slices.Contains([]string{lockFile, formatFile, tokenFile, addressFile, sessionsFile, clusterOf}, name):
			return fmt.Errorf("%s is a link, or no %s as this program makes it", filepath.Join(path, name), name)
		case name == formatFile:
			ours = true
		case name != lockFile && !strings.HasSuffix(name, unfinishedOf): // a first start that was cut short leaves these
			strange = name
		}
	}
	if !ours && strange != "" {
		return fmt.Errorf("%s holds other things, %s among them, and was not made by this program; want an empty folder, or one that does not exist yet", path, strange)
	}
	return nil
}

// lockWait is how long a client that looks whether a service runs may hold the lock.
const lockWait = 500 * time.Millisecond

// take locks the folder for this process.
func (f *folder) take() error {
	for until := time.Now().Add(lockWait); ; time.Sleep(10 * time.Millisecond) {
		err := syscall.Flock(int(f.lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
		if err == nil {
			return nil
		}
		if time.Now().After(until) {
			return f.inUse()
		}
	}
}

// runs says whether a service holds a folder.
func runs(path string) bool {
	lock, err := open(filepath.Join(path, lockFile))
	if err != nil {
		return false
	}
	defer lock.Close()
	return syscall.Flock(int(lock.Fd()), syscall.LOCK_SH|syscall.LOCK_NB) != nil
}

func (f *folder) file(name string) string { return filepath.Join(f.path, name) }

// open opens a file for reading that is no link to another.
func open(path string) (*os.File, error) {
	return os.OpenFile(path, os.O_RDONLY|syscall.O_NOFOLLOW, 0)
}

func read(path string) (string, error) {
	file, err := open(path)
	if err != nil {
		return "", err
	}
	defer file.Close()
	text, err := io.ReadAll(file)
	return strings.TrimSpace(string(text)), err
}

// write puts a file into the folder whole, for its owner alone: whatever happens meanwhile, it is there as before or as after.
func (f *folder) write(name, text string) (err error) {
	unfinished := f.file(name + unfinishedOf)
	if err := os.Remove(unfinished); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	file, err := os.OpenFile(unfinished, os.O_CREATE|os.O_EXCL|os.O_WRONLY|syscall.O_NOFOLLOW, 0o600)
	if err != nil {
		return err
	}
	_, err = file.WriteString(text + "\n")
	if err := errors.Join(err, file.Sync(), file.Close()); err != nil {
		return err
	}
	if err := os.Rename(unfinished, f.file(name)); err != nil {
		return err
	}
	return f.sync()
}

// sync makes sure that the names in the folder are on the disk.
func (f *folder) sync() error {
	dir, err := os.Open(f.path)
	if err != nil {
		return err
	}
	return errors.Join(dir.Sync(), dir.Close())
}

// inUse says who holds the folder, as far as it is known.
func (f *folder) inUse() error {
	where := ""
	if address, err := Address(f.path); err == nil {
		where = " at " + address
	}
	return fmt.Errorf("a service already runs on the data folder %s%s; use that one, or choose another folder with --data", f.path, where)
}

func (f *folder) checkFormat() error {
	text, err := read(f.file(formatFile))
	if errors.Is(err, fs.ErrNotExist) {
		return f.write(formatFile, strconv.Itoa(folderFormat))
	}
	if err != nil {
		return err
	}
	format, err := strconv.Atoi(text)
	switch {
	case err != nil || format < 1:
		return fmt.Errorf("the file %s cannot be read: want the number %d; write it there if the folder is one of Prairie Dusk, or choose another folder with --data", f.file(formatFile), folderFormat)
	case format > folderFormat:
		return fmt.Errorf("the data folder %s was made by a newer version of Prairie Dusk (format %d, this program knows %d); use that version, or choose another folder with --data", f.path, format, folderFormat)
	}
	return nil
}

// postgres is the folder of the private cluster, made on first use.
func (f *folder) postgres() (string, error) {
	return f.file(clusterOf), os.MkdirAll(f.file(clusterOf), 0o700)
}

// token is the secret that clients show, made on first use.
func (f *folder) token() (string, error) {
	token, err := Token(f.path)
	if !errors.Is(err, fs.ErrNotExist) {
		return token, err
	}
	return f.newToken()
}

// newToken makes another secret.
func (f *folder) newToken() (string, error) {
	token := rand.Text()
	return token, f.write(tokenFile, token)
}

// Token is the secret of the service that runs on a data folder. The error says what to do with one that is none.
func Token(path string) (string, error) {
	path = filepath.Join(path, tokenFile)
	token, err := read(path)
	if err == nil && len(token) < server.ShortestToken {
		return "", fmt.Errorf("the file %s holds no token: want at least %d letters and digits. Remove it and start the service again, which makes another", path, server.ShortestToken)
	}
	return token, err
}

// sessions are the browsers that were let in. Where the file cannot be read they are let in anew.
func (f *folder) sessions() (sessions []server.Session) {
	if text, err := read(f.file(sessionsFile)); err == nil {
		_ = json.Unmarshal([]byte(text), &sessions)
	}
	return sessions
}

func (f *folder) keepSessions(sessions []server.Session) error {
	text, err := json.Marshal(sessions)
	if err != nil {
		return err
	}
	return f.write(sessionsFile, string(text))
}

type serviceNote struct {
	Address string `json:"address"`
}

// announce writes down where the service is, for clients; an empty address takes the note away.
func (f *folder) announce(address string) error {
	if address == "" {
		if err := os.Remove(f.file(addressFile)); !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	}
	text, err := json.Marshal(serviceNote{address})
	if err != nil {
		return err
	}
	return f.write(addressFile, string(text))
}

// ErrStale is returned, wrapped, by Address where a service has ended without taking its note away: somebody else may listen
// there by now.
var ErrStale = errors.New("the service has ended without saying so")

// Address is where the service that holds a data folder said it was.
func Address(path string) (string, error) {
	text, err := read(filepath.Join(path, addressFile))
	if err != nil {
		return "", err
	}
	if !runs(path) {
		return "", ErrStale
	}
	var note serviceNote
	if err := json.Unmarshal([]byte(text), &note); err != nil {
		return "", fmt.Errorf("%s: %w", filepath.Join(path, addressFile), err)
	}
	return note.Address, nil
}

func (f *folder) close() { f.lock.Close() }

// DefaultFolder is where the data lie unless somebody says otherwise. Root's lie where the user who runs
// PostgreSQL for root can reach them.
func DefaultFolder() string {
	if os.Geteuid() == 0 {
		return "/var/lib/prairie-dusk"
	}
	if base := os.Getenv("XDG_DATA_HOME"); base != "" {
		return filepath.Join(base, "prairie-dusk")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "prairie-dusk-data"
	}
	return filepath.Join(home, ".local", "share", "prairie-dusk")
}
