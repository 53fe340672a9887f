package web

import (
	"net/url"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The screens that the edge knows are those of the front end's router.
func TestTheScreensAreTheRouters(t *testing.T) {
	text, err := os.ReadFile("../../ui/src/router.tsx")
	require.NoError(t, err)
	want := []string{"/"}
	for _, m := range regexp.MustCompile(`path: "([^"*]+)"`).FindAllStringSubmatch(string(text), -1) {
		want = append(want, "/"+regexp.MustCompile(`:(\w+)`).ReplaceAllString(m[1], "{$1}"))
	}
	slices.Sort(want)
	have := slices.Sorted(slices.Values(screens))
	assert.Equal(t, want, have)
}

// Whatever is asked for, one comes to a screen of this server.
func TestALogInLeadsNowhereElse(t *testing.T) {
	for _, to := range []string{"/\t/evil.example", "/\n/evil.example", "//evil.example", `/\evil.example`, `\\evil.example`, "https://evil.example/", "javascript:alert(1)", "/%09/evil.example",
		"/%2f%2fevil.example", "/watch/../..//evil.example", "/.//evil.example", "/watch//evil.example", "@evil.example", "/@evil.example", "/log-in?to=/log-in", "/api/v1/plans", "/assets/x.js", "/none", "", "watch", "/\x00/evil.example"} {
		assert.Equal(t, "/", inside(to), "%q", to)
	}
	for to, want := range map[string]string{"/": "/", "/watch": "/watch", "/watch?site=2&tab=differs": "/watch?site=2&tab=differs", "/sources/feeds/7": "/sources/feeds/7", "/prepare/new": "/prepare/new",
		"/products?words=a%20b%0d%0aSet-Cookie:x": "/products?words=a+b%0D%0ASet-Cookie%3Ax"} {
		assert.Equal(t, want, inside(to))
	}
	rapid.Check(t, func(t *rapid.T) {
		to := rapid.OneOf(rapid.String(), rapid.StringOfN(rapid.SampledFrom([]rune("/\\\t\n:@.%09afwtch?#&= ")), 0, 20, -1)).Draw(t, "to")
		got := inside(to)
		u, err := url.Parse(got)
		if err != nil || u.Host != "" || u.Scheme != "" || !known(u.Path) || strings.ContainsAny(got, "\t\n\r\\") || strings.HasPrefix(got, "//") {
			t.Fatalf("%q leads to %q", to, got)
		}
	})
}
