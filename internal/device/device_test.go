package device

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"net/netip"
	"strings"
	"testing"
)

func TestReadLineThrowsAwayWhatIsTooLong(t *testing.T) {
	in := bufio.NewReaderSize(strings.NewReader("$short*00\r\n"+strings.Repeat("x", 100_000)+"\n"+strings.Repeat("y",
		90)+"\n$last\n$cut"), 256)
	if l, err := ReadLine(in, 82); err != nil || string(l) != "$short*00\r\n" {
		t.Errorf("%q, %v", l, err)
	}
	for range 2 {
		if _, err := ReadLine(in, 82); !errors.Is(err, ErrLong) {
			t.Errorf("%v", err)
		}
	}
	if l, err := ReadLine(in, 82); err != nil || string(l) != "$last\n" {
		t.Errorf("%q, %v", l, err)
	}
	if _, err := ReadLine(in, 82); !errors.Is(err, io.ErrUnexpectedEOF) {
		t.Errorf("%v", err)
	}
}

func TestOnlyTheSchoolsOwnNetwork(t *testing.T) {
	for a, want := range map[string]bool{"127.0.0.1": true, "::1": true, "192.168.4.2": true, "10.0.0.1": true,
		"169.254.1.1": false, "fe80::1": false, "169.254.169.254": false, "0.0.0.0": false, "8.8.8.8": false,
		"2001:db8::1": false, "::ffff:10.0.0.1": true} {
		if got := Near(netip.MustParseAddr(a)); got != want {
			t.Errorf("%s: %v", a, got)
		}
	}
	for addr, want := range map[string]bool{"127.0.0.1:10110": true, "meter.local:10110": true, "8.8.8.8:80": false,
		"nonsense": false, ":80": false, "10.0.0.1:0": false, "10.0.0.1:port": false, "169.254.169.254:80": false,
		"[fe80::1]:80": false} {
		if got := CheckAddr(addr) == nil; got != want {
			t.Errorf("%s: %v", addr, got)
		}
	}
	if onlyNear("tcp", "93.184.216.34:80", nil) == nil {
		t.Error("it would connect to anywhere")
	}
}

// The database's own address is no device's, by whichever name or number of this machine.
func TestTheDatabaseIsNoDevice(t *testing.T) {
	Deny(t.Context(), "localhost", 54329)
	for addr, want := range map[string]bool{"127.0.0.1:54329": false, "[::1]:54329": false, "localhost:54329": false,
		"127.0.0.2:54329": false, "[::ffff:127.0.0.1]:54329": false, "127.0.0.1:54330": true, "192.168.250.250:54329": true} {
		if got := CheckAddr(addr) == nil; got != want {
			t.Errorf("%s: %v", addr, got)
		}
	}
	if _, err := Dial(t.Context(), "localhost:54329"); err == nil || !strings.Contains(err.Error(), "database") {
		t.Errorf("it connects by a name: %v", err)
	}
}

// Whatever a device sends, a line is no longer than was asked for, and the reader goes on to the end.
func FuzzReadLine(f *testing.F) {
	f.Add([]byte("$WIMWV,1*00\r\n"), uint8(82))
	f.Add([]byte("\n\n\n"), uint8(0))
	f.Add([]byte(strings.Repeat("x", 5000)+"\ny"), uint8(200))
	f.Fuzz(func(t *testing.T, data []byte, most uint8) {
		in := bufio.NewReaderSize(bytes.NewReader(data), 256)
		for range len(data) + 2 {
			line, err := ReadLine(in, int(most))
			if len(line) > int(most) {
				t.Fatalf("a line of %d bytes, %d at most", len(line), most)
			}
			if err != nil && !errors.Is(err, ErrLong) {
				return
			}
		}
		t.Error("it never ends")
	})
}
