// Package eventlog keeps what has to survive between a phone's question and the database: a stream of scans, each of which is
// acknowledged once it is kept, and a bucket of live links that whoever answers scans watches. Both stand on NATS JetStream.
//
// Its server runs embedded in this process, without a port, or it is one that SODRIK_NATS names, alone or in a cluster; the
// code is the same. An embedded server owns its folder by a lock: two of them on one folder start without complaint and lose
// what they had acknowledged.
//
// Promises: what Publish has said to be kept outlives the process, however it ends. A power cut may cost the last tenth of a
// second on a single server, since files are synced that often. What a scan holds is not this package's matter.
package eventlog

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/nats-io/nats-server/v2/server"
	"github.com/nats-io/nats.go"
	"github.com/nats-io/nats.go/jetstream"
	"golang.org/x/sys/unix"
)

// ErrOwned is that another process has the folder.
var ErrOwned = errors.New("eventlog: another process has this log; let it run as a process of its own, sodrik log, and name " +
	"its address in SODRIK_NATS")

// Names within the server.
const (
	streamName = "SCANS"
	subject    = "scans"
	bucketName = "LINKS"
	sharedName = "SHARED"
)

const (
	// syncEvery is how often files are synced: what a power cut may cost.
	syncEvery = 100 * time.Millisecond
	// doubles is for how long one scan that is sent twice is kept once.
	doubles = 10 * time.Second
	// starting is how long an embedded server may take to read what it has.
	starting = time.Minute
	// sharedFor is for how long something is shared in memory
	sharedFor = 48 * time.Hour
)

// Options say where a log is.
type Options struct {
	Dir     string // of an embedded server
	URL     string // of a server that runs elsewhere, nats://…; then Dir is not used
	MaxSize int64  // bytes of scans that are kept at most; 0 is 8 GiB
	// Replicas is on how many servers of a cluster all is kept; 0 is one
	Replicas int
	Listen   string // address on which an embedded server is open to others, for sodrik log; empty: to this process alone

	// Of a cluster: the name of this server, the address on which its others reach it, and theirs. Whoever opens such a log only
	// serves it: what is kept on how many servers is said by those who use it.
	Name, Cluster string
	Peers         []string
	ServeOnly     bool
}

// Log is an open log.
type Log struct {
	conn   *nats.Conn
	js     jetstream.JetStream
	links  jetstream.KeyValue
	files  jetstream.ObjectStore
	shared jetstream.KeyValue
	server *server.Server // nil where it runs elsewhere
	lock   *os.File
	health health
	closed chan struct{} // once Close is called
	once   sync.Once
}

// Open opens a log, and makes what of it is not there. Errors are ErrOwned, that the server is older than this program's, that
// it keeps to other settings, or of files and network.
func Open(ctx context.Context, o Options) (l *Log, err error) {
	l = &Log{closed: make(chan struct{})}
	defer func() {
		if err != nil {
			l.Close()
			l = nil
		}
	}()
	var address string
	options := []nats.Option{nats.Name("sodrik"), nats.MaxReconnects(-1), nats.ReconnectWait(250 * time.Millisecond),
		nats.ReconnectJitter(100*time.Millisecond, 100*time.Millisecond)}
	if o.URL != "" {
		address = o.URL
	} else {
		if err := l.serve(o); err != nil || o.ServeOnly {
			return l, err
		}
		options = append(options, nats.InProcessServer(l.server))
	}
	if l.conn, err = nats.Connect(address, options...); err != nil {
		return l, fmt.Errorf("eventlog: %w", err)
	}
	if got := l.conn.ConnectedServerVersion(); older(got, server.VERSION) {
		return l, fmt.Errorf("eventlog: the server at %s is version %s, and knows less than is needed; %s or newer is, such as "+
			"sodrik log", o.URL, got, server.VERSION)
	}
	if l.js, err = jetstream.New(l.conn); err != nil {
		return l, fmt.Errorf("eventlog: %w", err)
	}
	return l, l.prepare(ctx, o)
}

// serve starts the embedded server.
func (l *Log) serve(o Options) (err error) {
	if err := os.MkdirAll(o.Dir, 0o700); err != nil {
		return err
	}
	if l.lock, err = os.OpenFile(filepath.Join(o.Dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return err
	}
	if err := unix.Flock(int(l.lock.Fd()), unix.LOCK_EX|unix.LOCK_NB); errors.Is(err, unix.EWOULDBLOCK) {
		return ErrOwned
	} else if err != nil {
		return fmt.Errorf("eventlog: the lock of %s: %w", o.Dir, err)
	}
	options := &server.Options{
		ServerName:         cmp.Or(o.Name, "sodrik"),
		JetStream:          true,
		StoreDir:           o.Dir,
		SyncInterval:       syncEvery,
		NoSigs:             true,
		DontListen:         o.Listen == "",
		JetStreamMaxMemory: 64 << 20,
		JetStreamMaxStore:  o.size() * 2,
	}
	if o.Listen != "" {
		if options.Host, options.Port, err = split(o.Listen); err != nil {
			return err
		}
	}
	if o.Cluster != "" {
		options.Cluster.Name = "sodrik"
		if options.Cluster.Host, options.Cluster.Port, err = split(o.Cluster); err != nil {
			return err
		}
		options.Routes = server.RoutesFromStr(strings.Join(o.Peers, ","))
	}
	if l.server, err = server.NewServer(options); err != nil {
		return fmt.Errorf("eventlog: %w", err)
	}
	l.server.SetLoggerV2(watcher{&l.health}, false, false, false)
	l.server.Start()
	if !l.server.ReadyForConnections(starting) {
		return fmt.Errorf("eventlog: the server has not started within %v", starting)
	}
	go l.mend(o, server.JetStreamConfig{StoreDir: o.Dir, SyncInterval: syncEvery, MaxMemory: options.JetStreamMaxMemory,
		MaxStore: options.JetStreamMaxStore})
	return nil
}

func (o Options) size() int64 {
	if o.MaxSize > 0 {
		return o.MaxSize
	}
	return 8 << 30
}

// prepare makes the stream and the bucket, and reads back how they are kept: a server that does not know a setting passes over
// it without a word.
func (l *Log) prepare(ctx context.Context, o Options) error {
	replicas := max(1, o.Replicas)
	want := jetstream.StreamConfig{Name: streamName, Subjects: []string{subject}, Storage: jetstream.FileStorage,
		Retention: jetstream.LimitsPolicy, Discard: jetstream.DiscardNew, MaxBytes: o.size(), Duplicates: doubles,
		Replicas: replicas}
	var s jetstream.Stream
	var err error
	for end := time.Now().Add(starting); ; { // a cluster first has to choose who leads
		within, cancel := context.WithTimeout(ctx, 5*time.Second)
		s, err = l.js.CreateOrUpdateStream(within, want)
		cancel()
		if err == nil || replicas == 1 || ctx.Err() != nil || time.Now().After(end) {
			break
		}
		time.Sleep(200 * time.Millisecond)
	}
	if err != nil {
		return fmt.Errorf("eventlog: the stream of scans: %w", err)
	}
	info, err := s.Info(ctx)
	if err != nil {
		return fmt.Errorf("eventlog: the stream of scans: %w", err)
	}
	got := info.Config
	if got.Storage != want.Storage || got.Retention != want.Retention || got.Discard != want.Discard ||
		got.MaxBytes != want.MaxBytes || got.Duplicates != want.Duplicates || got.Replicas != want.Replicas || got.MaxAge != 0 {
		return fmt.Errorf("eventlog: the stream of scans is kept in another way than was asked for: %+v", got)
	}
	l.links, err = l.js.CreateOrUpdateKeyValue(ctx, jetstream.KeyValueConfig{Bucket: bucketName, History: 1,
		Storage: jetstream.FileStorage, Replicas: replicas})
	if err != nil {
		return fmt.Errorf("eventlog: the bucket of links: %w", err)
	}
	l.files, err = l.js.CreateOrUpdateObjectStore(
		ctx,
		jetstream.ObjectStoreConfig{Bucket: filesName, Storage: jetstream.FileStorage,
			Replicas: replicas},
	)
	if err != nil {
		return fmt.Errorf("eventlog: the bucket of files: %w", err)
	}
	l.shared, err = l.js.CreateOrUpdateKeyValue(ctx, jetstream.KeyValueConfig{Bucket: sharedName, History: 1, TTL: sharedFor,
		Storage: jetstream.MemoryStorage, Replicas: replicas})
	if err != nil {
		return fmt.Errorf("eventlog: the bucket in memory: %w", err)
	}
	return l.prepareStocks(ctx, replicas)
}

// Publish keeps an event under an id that tells a double. It returns once the event is kept; an error says that it may not be.
func (l *Log) Publish(ctx context.Context, id string, event []byte) error {
	_, err := l.js.Publish(ctx, subject, event, jetstream.WithMsgID(id), jetstream.WithExpectStream(streamName),
		jetstream.WithRetryAttempts(0))
	l.health.published(err)
	return err
}

// URL is where others reach an embedded server that listens; empty otherwise.
func (l *Log) URL() string {
	if l.server == nil || l.server.Addr() == nil {
		return ""
	}
	return l.server.ClientURL()
}

// Close ends the connection, and the server if it is embedded, once what it has taken is written.
func (l *Log) Close() {
	l.once.Do(func() { close(l.closed) })
	if l.conn != nil {
		l.conn.Close()
	}
	if l.server != nil {
		l.server.Shutdown()
		l.server.WaitForShutdown()
	}
	if l.lock != nil {
		l.lock.Close()
	}
}
