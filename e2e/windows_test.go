package e2e

import (
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

// window is a tab in a context of its own, with cookies, storage and permissions, as somebody alone with a browser has it. One
// test is in it at a time. What the test left ends with it; the process that draws pages goes on, with the scripts, styles and
// fonts it has read, so that the next test's first page takes half of the time.
type window struct {
	context *rod.Browser
	tab     *rod.Page
	closed  bool // once the test has left it
}

var windows struct {
	sync.Mutex
	free []*window
	in   map[proto.TargetTargetID]*window // those that tests are in
}

// openWindow is a window for this test alone, until its end.
func openWindow(t *testing.T, origin string) *rod.Page {
	t.Helper()
	windows.Lock()
	defer windows.Unlock()
	var w *window
	if last := len(windows.free) - 1; last >= 0 {
		w = windows.free[last]
		windows.free = windows.free[:last]
	} else {
		context, err := browser.Incognito()
		if err != nil {
			t.Fatal(err)
		}
		tab, err := context.Page(proto.TargetCreateTarget{})
		if err != nil {
			t.Fatal(err)
		}
		w = &window{context: context, tab: tab}
	}
	if windows.in == nil {
		windows.in = map[proto.TargetTargetID]*window{}
	}
	windows.in[w.tab.TargetID] = w
	p := w.tab.Timeout(10 * time.Minute) // of the whole test, on a machine that others use too
	t.Cleanup(func() {
		p.CancelTimeout()
		w.leave(origin, t.Failed())
	})
	return p
}

// closesAfter says that a test changes more of its window than what pages keep: nobody else is to be in it.
func closesAfter(p *rod.Page) {
	windows.Lock()
	defer windows.Unlock()
	windows.in[p.TargetID].closed = true
}

// leave forgets what a test kept under an origin, and its other tabs. A window of a test that failed, and one that cannot be
// left so, is closed for good.
func (w *window) leave(origin string, failed bool) {
	windows.Lock()
	delete(windows.in, w.tab.TargetID)
	closed := w.closed || failed
	windows.Unlock()
	if closed || w.clean(origin) != nil {
		w.tab.Close()
		w.context.Close()
		return
	}
	windows.Lock()
	defer windows.Unlock()
	windows.free = append(windows.free, w)
}

func (w *window) clean(origin string) error {
	p, b := w.tab.Timeout(patience), w.context.Timeout(patience)
	defer p.CancelTimeout()
	defer b.CancelTimeout()
	open, err := proto.TargetGetTargets{}.Call(b)
	if err != nil {
		return err
	}
	for _, other := range open.TargetInfos {
		if other.BrowserContextID == w.context.BrowserContextID && other.TargetID != p.TargetID {
			_, shut := proto.TargetCloseTarget{TargetID: other.TargetID}.Call(b)
			err = errors.Join(err, shut)
		}
	}
	return errors.Join(err,
		p.Navigate(origin+"/static/icon.svg"), // what is on its way in the page ends, and the process stays
		p.WaitLoad(),
		proto.StorageClearDataForOrigin{Origin: origin, StorageTypes: "all"}.Call(p),
		proto.StorageClearCookies{BrowserContextID: w.context.BrowserContextID}.Call(b),
		proto.BrowserResetPermissions{BrowserContextID: w.context.BrowserContextID}.Call(b),
		proto.EmulationSetEmulatedMedia{}.Call(p),
		proto.PageResetNavigationHistory{}.Call(p),
		proto.LogClear{}.Call(p),
		proto.LogDisable{}.Call(p),
	)
}
