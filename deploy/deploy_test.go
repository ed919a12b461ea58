// Package deploy_test looks whether the programs that read the files of this folder can read them.
package deploy_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"maestrale/internal/authority"
)

// tool finds a program of Debian's: installed, or unpacked by scripts/needs deploy.
func tool(t *testing.T, name string) *exec.Cmd {
	t.Helper()
	unpacked := filepath.Join(os.Getenv("HOME"), ".cache", "maestrale", "deploy")
	for _, p := range []string{"/usr/bin/" + name, "/usr/sbin/" + name, unpacked + "/usr/bin/" + name,
		unpacked + "/usr/sbin/" + name} {
		if _, err := os.Stat(p); err == nil {
			cmd := exec.Command(p)
			libs, _ := filepath.Glob(unpacked + "/usr/lib/*/systemd")
			cmd.Env = append(os.Environ(), "LD_LIBRARY_PATH="+strings.Join(libs, ":"))
			return cmd
		}
	}
	t.Fatalf("%s is not here; scripts/needs deploy fetches it", name)
	return nil
}

// changed is a file of this folder with some words replaced, in a folder of its own.
func changed(t *testing.T, name string, words ...string) string {
	t.Helper()
	data, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	out := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(out, []byte(strings.NewReplacer(words...).Replace(string(data))), 0o600); err != nil {
		t.Fatal(err)
	}
	return out
}

func TestSystemdReadsTheUnits(t *testing.T) {
	program := filepath.Join(t.TempDir(), "maestrale")
	if err := os.WriteFile(program, []byte("#!/bin/sh\n"), 0o755); err != nil {
		t.Fatal(err)
	}
	for _, unit := range []string{"maestrale.service", "maestrale-backup.service", "maestrale-up.service"} {
		cmd := tool(t, "systemd-analyze")
		cmd.Args = append(cmd.Args, "verify", "--man=no", changed(t, unit, "/usr/local/bin/maestrale", program,
			"User=maestrale", "User=daemon", "Group=maestrale", "Group=daemon"))
		out, err := cmd.CombinedOutput()
		for _, line := range strings.Split(string(out), "\n") {
			// What it says of other units of the machine is none of ours.
			if strings.Contains(line, unit) {
				t.Errorf("%s", line)
			}
		}
		if err != nil {
			t.Errorf("%s: %v %s", unit, err, out)
		}
	}
	// A timer is read together with what it starts.
	dir := t.TempDir()
	for _, unit := range []string{"maestrale-backup.service", "maestrale-backup.timer"} {
		data, err := os.ReadFile(changed(t, unit, "/usr/local/bin/maestrale", program, "User=maestrale", "User=daemon",
			"Group=maestrale", "Group=daemon"))
		if err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, unit), data, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	cmd := tool(t, "systemd-analyze")
	cmd.Env = append(cmd.Env, "SYSTEMD_UNIT_PATH="+dir+":")
	cmd.Args = append(cmd.Args, "verify", "--man=no", filepath.Join(dir, "maestrale-backup.timer"))
	if out, err := cmd.CombinedOutput(); err != nil || strings.Contains(string(out), "maestrale-backup") {
		t.Errorf("%v %s", err, out)
	}
	// And the check itself can fail.
	cmd = tool(t, "systemd-analyze")
	cmd.Args = append(cmd.Args, "verify", "--man=no", changed(t, "maestrale.service", "ExecStart=/usr/local/bin/maestrale",
		"ExecStart=nowhere"))
	if out, err := cmd.CombinedOutput(); err == nil {
		t.Errorf("a broken unit passes: %s", out)
	}
}

func TestNginxReadsItsFile(t *testing.T) {
	dir := t.TempDir()
	a, err := authority.Open(filepath.Join(dir, "a"), []string{"school.example"}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "cert.pem"), a.PEM(), 0o600); err != nil {
		t.Fatal(err)
	}
	check := func(words ...string) (string, error) {
		site := changed(t, "nginx.conf", append([]string{"/etc/ssl/maestrale/fullchain.pem", dir + "/cert.pem",
			"/etc/ssl/maestrale/privkey.pem", dir + "/a/authority.key", "listen 80", "listen 18080", "listen [::]:80",
			"listen 18081", "listen 443", "listen 18443", "listen [::]:443", "listen 18444"}, words...)...)
		main := filepath.Join(dir, "nginx.conf")
		if err := os.WriteFile(main, []byte("pid "+dir+"/pid;\nerror_log "+dir+"/error.log;\nevents {}\nhttp {\n"+
			"client_body_temp_path "+dir+"/b;\nproxy_temp_path "+dir+"/p;\nfastcgi_temp_path "+dir+"/f;\nuwsgi_temp_path "+dir+
			"/u;\nscgi_temp_path "+dir+"/s;\naccess_log off;\ninclude "+site+";\n}\n"), 0o600); err != nil {
			t.Fatal(err)
		}
		cmd := tool(t, "nginx")
		cmd.Args = append(cmd.Args, "-t", "-q", "-p", dir, "-c", main, "-e", dir+"/error.log")
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	if out, err := check(); err != nil {
		t.Errorf("%v %s", err, out)
	}
	if out, err := check("proxy_read_timeout 1h", "proxy_read_timeout soon"); err == nil {
		t.Errorf("a broken file passes: %s", out)
	}
}
