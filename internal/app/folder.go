package app

import (
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
)

// folderFormat is the version of the data folder's layout.
const folderFormat = 1

// A folder is the data folder, held by this process alone: `postgres` for the private cluster, `token` for
// what clients show, `service.json` for where they find the service.
type folder struct {
	path string
	lock *os.File
}

// openFolder makes the folder on first use, for its owner alone, and locks it.
func openFolder(path string) (*folder, error) {
	path, err := filepath.Abs(path)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(path, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder: %w; choose another with --data", err)
	}
	if err := os.Chmod(path, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder has to be ours alone: %w; choose another with --data", err)
	}
	f := &folder{path: path}
	if f.lock, err = os.OpenFile(f.file("lock"), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return nil, fmt.Errorf("the data folder: %w; choose another with --data", err)
	}
	if err := syscall.Flock(int(f.lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.lock.Close()
		return nil, f.inUse()
	}
	if err := f.checkFormat(); err != nil {
		f.close()
		return nil, err
	}
	return f, nil
}

func (f *folder) file(name string) string { return filepath.Join(f.path, name) }

// inUse says who holds the folder, as far as it is known.
func (f *folder) inUse() error {
	where := ""
	if address, err := Address(f.path); err == nil {
		where = " at " + address
	}
	return fmt.Errorf("a service already runs on the data folder %s%s; use that one, or choose another folder with --data", f.path, where)
}

func (f *folder) checkFormat() error {
	text, err := os.ReadFile(f.file("format"))
	if errors.Is(err, fs.ErrNotExist) {
		return os.WriteFile(f.file("format"), []byte(strconv.Itoa(folderFormat)+"\n"), 0o600)
	}
	if err != nil {
		return err
	}
	format, err := strconv.Atoi(strings.TrimSpace(string(text)))
	if err != nil || format > folderFormat {
		return fmt.Errorf("the data folder %s was made by a newer version of Prairie Dusk (format %s, this program knows %d); use that version, or choose another folder with --data",
			f.path, strings.TrimSpace(string(text)), folderFormat)
	}
	return nil
}

// postgres is the folder of the private cluster, made on first use.
func (f *folder) postgres() (string, error) {
	return f.file("postgres"), os.MkdirAll(f.file("postgres"), 0o700)
}

// token is the secret that clients show, made on first use.
func (f *folder) token() (string, error) {
	token, err := Token(f.path)
	if !errors.Is(err, fs.ErrNotExist) {
		return token, err
	}
	token = rand.Text()
	return token, os.WriteFile(f.file("token"), []byte(token+"\n"), 0o600)
}

// Token is the secret of the service that runs on a data folder.
func Token(path string) (string, error) {
	text, err := os.ReadFile(filepath.Join(path, "token"))
	return strings.TrimSpace(string(text)), err
}

type serviceFile struct {
	Address string `json:"address"`
}

// announce writes down where the service is, for clients; an empty address takes the note away.
func (f *folder) announce(address string) error {
	if address == "" {
		return os.Remove(f.file("service.json"))
	}
	text, err := json.Marshal(serviceFile{address})
	if err != nil {
		return err
	}
	return os.WriteFile(f.file("service.json"), append(text, '\n'), 0o600)
}

// Address is where the service of a data folder said it was.
func Address(path string) (string, error) {
	text, err := os.ReadFile(filepath.Join(path, "service.json"))
	if err != nil {
		return "", err
	}
	var s serviceFile
	if err := json.Unmarshal(text, &s); err != nil {
		return "", fmt.Errorf("%s: %w", filepath.Join(path, "service.json"), err)
	}
	return s.Address, nil
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
