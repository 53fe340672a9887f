package crash

import (
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestMain lets the test's own program be the one that falls.
func TestMain(m *testing.M) {
	dir := os.Getenv("CRASH_DIR")
	if dir == "" {
		os.Exit(m.Run())
	}
	_, end, err := Begin(dir)
	if err != nil {
		panic(err)
	}
	switch os.Getenv("CRASH_HOW") {
	case "panic":
		go func() { panic("oh") }()
	case "killed":
		_ = syscall.Kill(os.Getpid(), syscall.SIGKILL)
	case "memory":
		_ = make([]byte, 1<<46)
	case "well":
		end()
		return
	}
	select {}
}

func TestHowItEndedIsTold(t *testing.T) {
	for how, fell := range map[string]bool{"panic": true, "memory": true, "killed": false, "well": false} {
		t.Run(how, func(t *testing.T) {
			dir := t.TempDir()
			program := exec.Command(os.Args[0])
			program.Env = append(os.Environ(), "CRASH_DIR="+dir, "CRASH_HOW="+how)
			err := program.Run()
			assert.Equal(t, how == "well", err == nil, "%v", err)
			got, err := before(dir)
			require.NoError(t, err)
			assert.Equal(t, fell, got)
			if fell {
				text, err := os.ReadFile(filepath.Join(dir, kept))
				require.NoError(t, err)
				assert.Contains(t, string(text), "goroutine")
			}
			again, err := before(dir)
			require.NoError(t, err)
			assert.False(t, again, "it is told once")
		})
	}
}

func TestWhatTheSystemEndsForWantOfMemory(t *testing.T) {
	assert.True(t, killed("a 3", "a 4"))
	assert.False(t, killed("a 3", "a 3"))
	assert.False(t, killed("a 3", "b 4"), "the machine was started anew")
	assert.False(t, killed("", "a 4"))
	assert.False(t, killed("a 3", ""))
}
