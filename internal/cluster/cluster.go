// Package cluster runs a PostgreSQL server of its own on loopback, for the demo and for tests: data in a folder, a
// random password, a free port, an unprivileged user even when called by root, and an end when the program ends.
package cluster

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver for the waiting ping
)

// Cluster is a running server.
type Cluster struct {
	Dir      string // where its data lies
	URL      string // of the database "gallipot" for the application's role, which cannot change what is of record
	OwnerURL string // of the same for the role that owns it, for migrations and restores

	start   func() (*exec.Cmd, error)
	stop    chan struct{} // closed to end the server
	stopped chan struct{} // closed once it has ended
	once    sync.Once
}

// serverUser runs the server when root calls.
const serverUser = "postgres"

// ErrNoPostgres means that PostgreSQL is not installed.
var ErrNoPostgres = errors.New(
	"PostgreSQL is not installed: run `apt-get install postgresql` (as root), then try again")

// binaries finds the newest installed server's programs.
func binaries() (string, error) {
	dirs, err := filepath.Glob("/usr/lib/postgresql/*/bin")
	if err != nil {
		return "", err
	}
	slices.SortFunc(dirs, func(a, b string) int { return version(b) - version(a) })
	for _, d := range dirs {
		if _, err := os.Stat(filepath.Join(d, "postgres")); err == nil {
			return d, nil
		}
	}
	return "", ErrNoPostgres
}

// Tool is where one of PostgreSQL's own programs lies, as pg_dump. Errors: ErrNoPostgres.
func Tool(name string) (string, error) {
	bin, err := binaries()
	if err != nil {
		return "", err
	}
	return filepath.Join(bin, name), nil
}

func version(dir string) int {
	n, err := strconv.Atoi(filepath.Base(filepath.Dir(dir)))
	if err != nil {
		return 0
	}
	return n
}

// account is who the server runs as: nil for the caller.
func account() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup(serverUser)
	if err != nil {
		return nil, ErrNoPostgres
	}
	uid, err1 := strconv.ParseUint(u.Uid, 10, 32)
	gid, err2 := strconv.ParseUint(u.Gid, 10, 32)
	if err := errors.Join(err1, err2); err != nil {
		return nil, err
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// Start runs the server with its data in dir, creating it first where it is not there. Settings are server settings as
// in "fsync=off". Errors: RunningError, ClosedError, ErrNoPostgres.
func Start(ctx context.Context, dir string, settings ...string) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	as, err := account()
	if err != nil {
		return nil, err
	}
	dir, err = settle(dir, as)
	if err != nil {
		return nil, err
	}
	if alive(dir) {
		return nil, RunningError{dir}
	}
	if err := initialise(ctx, bin, dir, as); err != nil {
		return nil, err
	}
	owner, err := secret(dir, ownersFile, as)
	if err != nil {
		return nil, err
	}
	app, err := secret(dir, appsFile, as)
	if err != nil {
		return nil, err
	}
	port, err := freePort()
	if err != nil {
		return nil, err
	}
	c := &Cluster{Dir: dir, stop: make(chan struct{}), stopped: make(chan struct{})}
	c.start = func() (*exec.Cmd, error) { return c.run(bin, port, as, settings) }
	first := make(chan error)
	go c.keep(first)
	if err := <-first; err != nil {
		return nil, err
	}
	c.URL, c.OwnerURL = address(appRole, app, port, "gallipot"), address(ownerRole, owner, port, "gallipot")
	if err := c.ready(ctx, address(ownerRole, owner, port, "postgres"), app); err != nil {
		c.Stop()
		return nil, err
	}
	return c, nil
}

// The two roles of a cluster, and the files that hold their passwords.
const (
	ownerRole  = "gallipot"
	ownersFile = "password"
	appRole    = "gallipot_app"
	appsFile   = "password-app"
)

func address(role, password string, port int, database string) string {
	return fmt.Sprintf("postgres://%s:%s@127.0.0.1:%d/%s?sslmode=disable", role, password, port, database)
}

// At returns the addresses of a server that runs on a folder, for the application's role and for the owner. ok is false
// where none runs.
func At(dir string) (app, owner string, ok bool, err error) {
	real, err := filepath.EvalSymlinks(dir)
	if err != nil || !alive(real) {
		return "", "", false, nil
	}
	raw, err := os.ReadFile(filepath.Join(real, "data", "postmaster.pid"))
	if err != nil {
		return "", "", false, fmt.Errorf("cluster: %w", err)
	}
	lines := strings.Split(string(raw), "\n") // the fourth line is the port
	if len(lines) < 4 {
		return "", "", false, errors.New("the database is just being started; try again")
	}
	port, err := strconv.Atoi(strings.TrimSpace(lines[3]))
	theirs, err2 := os.ReadFile(filepath.Join(real, ownersFile))
	ours, err3 := os.ReadFile(filepath.Join(real, appsFile))
	if err := errors.Join(err, err2, err3); err != nil {
		return "", "", false, fmt.Errorf("cluster: %w", err)
	}
	return address(appRole, strings.TrimSpace(string(ours)), port, "gallipot"),
		address(ownerRole, strings.TrimSpace(string(theirs)), port, "gallipot"), true, nil
}

// ClosedError means that the unprivileged user as which the server runs cannot enter a folder.
type ClosedError struct{ Dir, User string }

func (e ClosedError) Error() string {
	return fmt.Sprintf("the database runs as the user %q, who cannot enter %s: choose a folder with -dir that "+
		"everybody may enter (as in /srv/gallipot), or open the folders above it (chmod o+x), or run this as a user "+
		"who is not root", e.User, e.Dir)
}

// RunningError means that another program uses the data folder.
type RunningError struct{ Dir string }

func (e RunningError) Error() string { return "the demo is running already; end it first" }

const noteFile = "address"

// Note is what the program that uses the folder left there.
func (e RunningError) Note() string {
	raw, err := os.ReadFile(filepath.Join(e.Dir, noteFile))
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(raw))
}

// Leave keeps a note in the data folder for others who come while this one runs.
func (c *Cluster) Leave(note string) error {
	return os.WriteFile(filepath.Join(c.Dir, noteFile), []byte(note+"\n"), 0o644)
}

// Remove throws the data of a stopped server away. Errors: RunningError.
func Remove(dir string) error {
	real, err := filepath.EvalSymlinks(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("cluster folder: %w", err)
	}
	if alive(real) {
		return RunningError{real}
	}
	if err := errors.Join(os.RemoveAll(real), os.RemoveAll(dir)); err != nil { // dir may be a link to it
		return fmt.Errorf("cluster folder: %w", err)
	}
	return nil
}

// Full reports whether the disk of the data has no room left, so that the server cannot even start.
func (c *Cluster) Full() bool {
	const segment = 16 << 20 // the least that the server asks for at once: a piece of its log
	var there syscall.Statfs_t
	return syscall.Statfs(c.Dir, &there) == nil && there.Bavail*uint64(there.Bsize) < segment
}

// Holds reports whether a folder holds a database.
func Holds(dir string) bool {
	_, err := os.Stat(filepath.Join(dir, "data", "PG_VERSION"))
	return err == nil
}

// alive reports whether a server runs on the folder, by whatever path it is named: the process whose id PostgreSQL
// keeps there, working in that very folder.
func alive(dir string) bool {
	data, err := filepath.EvalSymlinks(filepath.Join(dir, "data"))
	if err != nil {
		return false
	}
	raw, err := os.ReadFile(filepath.Join(data, "postmaster.pid"))
	if err != nil {
		return false
	}
	first, _, _ := strings.Cut(string(raw), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil || pid <= 0 {
		return false
	}
	// After a crash the number may belong to another program by now. PostgreSQL works in its data folder.
	at, err := os.Readlink(fmt.Sprintf("/proc/%d/cwd", pid))
	if errors.Is(err, os.ErrPermission) { // somebody else's process: better believed
		name, _ := os.ReadFile(fmt.Sprintf("/proc/%d/comm", pid))
		return strings.HasPrefix(string(name), "postgres")
	}
	if err != nil {
		return false
	}
	at, err = filepath.EvalSymlinks(at)
	return err == nil && at == data
}

// settle makes the folder and hands it to the server's user.
func settle(dir string, as *syscall.Credential) (string, error) {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return "", err
	}
	if real, err := filepath.EvalSymlinks(abs); err == nil {
		abs = real
	}
	if err := os.MkdirAll(abs, 0o755); err != nil {
		return "", fmt.Errorf("cluster folder: %w", err)
	}
	if abs, err = filepath.EvalSymlinks(abs); err != nil {
		return "", fmt.Errorf("cluster folder: %w", err)
	}
	if as == nil {
		return abs, nil
	}
	if err := os.Chown(abs, int(as.Uid), int(as.Gid)); err != nil {
		return "", fmt.Errorf("cluster folder: %w", err)
	}
	if !enters(abs, as) {
		return "", ClosedError{abs, serverUser}
	}
	return abs, nil
}

// enters reports whether the server's user can write into a folder.
func enters(dir string, as *syscall.Credential) bool {
	probe := exec.Command("test", "-w", dir)
	probe.Dir = "/"
	probe.SysProcAttr = &syscall.SysProcAttr{Credential: as}
	return probe.Run() == nil
}

func initialise(ctx context.Context, bin, dir string, as *syscall.Credential) error {
	if Holds(dir) {
		return nil
	}
	if _, err := secret(dir, ownersFile, as); err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", filepath.Join(dir, "data"), "-U", ownerRole,
		"--auth=scram-sha-256", "--pwfile="+filepath.Join(dir, ownersFile),
		"--locale=C.UTF-8", "--encoding=UTF8", "--data-checksums", "--no-instructions")
	cmd.Dir = dir
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: as}
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb: %w: %s", err, strings.TrimSpace(string(out)))
	}
	return nil
}

// secret is the password that a file in the folder holds, made where there is none.
func secret(dir, name string, as *syscall.Credential) (string, error) {
	file := filepath.Join(dir, name)
	if raw, err := os.ReadFile(file); err == nil {
		return strings.TrimSpace(string(raw)), nil
	} else if !errors.Is(err, os.ErrNotExist) {
		return "", fmt.Errorf("cluster password: %w", err)
	}
	random := make([]byte, 18)
	if _, err := rand.Read(random); err != nil {
		return "", err
	}
	made := hex.EncodeToString(random)
	if err := os.WriteFile(file, []byte(made+"\n"), 0o600); err != nil {
		return "", fmt.Errorf("cluster password: %w", err)
	}
	if as != nil {
		if err := os.Chown(file, int(as.Uid), int(as.Gid)); err != nil {
			return "", fmt.Errorf("cluster password: %w", err)
		}
	}
	return made, nil
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// How fast a server that died is started again. A disk that is full stays so for a while, and a server that is started
// on it dies at once: the pauses grow, and there is no last try.
const (
	firstPause = 200 * time.Millisecond
	mostPause  = 10 * time.Second
	wellFor    = 5 * time.Second // a server that ran so long had nothing wrong with it
)

// keep runs the server until Stop: one that dies is started again on the same port. It stays on one thread, because the
// kernel ends the server with the thread that started it.
func (c *Cluster) keep(first chan<- error) {
	runtime.LockOSThread()
	defer close(c.stopped)
	pause := firstPause
	for n := 0; ; n++ {
		began := time.Now()
		cmd, err := c.start()
		if n == 0 {
			first <- err
			if err != nil {
				return
			}
		}
		if err == nil {
			died := make(chan error, 1)
			go func() { died <- cmd.Wait() }()
			select {
			case <-c.stop:
				end(cmd, died)
				return
			case err = <-died:
			}
		}
		if time.Since(began) > wellFor {
			pause = firstPause
		}
		slog.Error("the database ended and is started again", "error", err, "in", pause)
		select {
		case <-c.stop:
			return
		case <-time.After(pause):
		}
		pause = min(2*pause, mostPause)
	}
}

// end stops the server in order: no new sessions, open ones rolled back.
func end(cmd *exec.Cmd, died <-chan error) {
	_ = cmd.Process.Signal(syscall.SIGINT) // it may have ended already
	select {
	case <-died:
	case <-time.After(10 * time.Second):
		_ = cmd.Process.Signal(syscall.SIGQUIT)
		<-died
	}
}

func (c *Cluster) run(bin string, port int, as *syscall.Credential, settings []string) (*exec.Cmd, error) {
	log, err := os.OpenFile(filepath.Join(c.Dir, "server.log"), os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
	if err != nil {
		return nil, fmt.Errorf("cluster log: %w", err)
	}
	defer log.Close()
	args := []string{"-D", filepath.Join(c.Dir, "data"), "-c", "listen_addresses=127.0.0.1", "-c",
		"port=" + strconv.Itoa(port), "-c", "unix_socket_directories="}
	for _, s := range settings {
		args = append(args, "-c", s)
	}
	cmd := exec.Command(filepath.Join(bin, "postgres"), args...)
	cmd.Dir = c.Dir
	cmd.Stdout, cmd.Stderr = log, log
	// Its own group, so that Ctrl-C reaches only us and we stop it in order; it ends with us whatever happens.
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: as, Setpgid: true, Pdeathsig: syscall.SIGQUIT}
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("start PostgreSQL: %w", err)
	}
	return cmd, nil
}

// ready waits until the server answers, and makes the database and the application's role.
func (c *Cluster) ready(ctx context.Context, url, password string) error {
	ctx, cancel := context.WithTimeout(ctx, 30*time.Second)
	defer cancel()
	db, err := sql.Open("pgx", url)
	if err != nil {
		return err
	}
	defer db.Close()
	for {
		if err = db.PingContext(ctx); err == nil {
			break
		}
		select {
		case <-ctx.Done():
			log, _ := os.ReadFile(filepath.Join(c.Dir, "server.log"))
			return fmt.Errorf("PostgreSQL did not answer: %w: %s", err, tail(string(log)))
		case <-time.After(30 * time.Millisecond):
		}
	}
	var database, role bool
	if err := db.QueryRowContext(ctx, "SELECT EXISTS (SELECT FROM pg_database WHERE datname = 'gallipot'),"+
		" EXISTS (SELECT FROM pg_roles WHERE rolname = '"+appRole+"')").Scan(&database, &role); err != nil {
		return fmt.Errorf("cluster: %w", err)
	}
	asked := []string{"ALTER ROLE " + appRole + " LOGIN PASSWORD '" + password + "'"}
	if !role {
		asked[0] = strings.Replace(asked[0], "ALTER", "CREATE", 1)
	}
	if !database {
		asked = append(asked, "CREATE DATABASE gallipot")
	}
	for _, q := range asked {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("cluster: %w", err)
		}
	}
	return nil
}

// tail is the end of a log.
func tail(s string) string {
	const most = 2000
	return strings.TrimSpace(s[max(0, len(s)-most):])
}

// Stop ends the server in order, and waits until it has ended.
func (c *Cluster) Stop() {
	c.once.Do(func() { close(c.stop) })
	<-c.stopped
	_ = os.Remove(filepath.Join(c.Dir, noteFile)) // there may be none
}
