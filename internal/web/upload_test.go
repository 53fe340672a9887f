package web_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/internal/house"
	"easymargin/internal/store"
	"easymargin/internal/web"
)

// An upload that stops coming is given up, and leaves no file behind.
func TestAnUploadThatStallsIsGivenUp(t *testing.T) {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	h := house.New(house.Options{Store: s, Stall: 50 * time.Millisecond})
	served, _ := web.New(web.Options{Stops: h.Stops(), People: h.People, Events: h.Events, Clock: h.Now})
	server := httptest.NewServer(served)
	t.Cleanup(func() {
		server.Close()
		h.Close()
		require.NoError(t, s.Close())
	})
	for name, end := range map[string]func(net.Conn) string{
		"it stalls": func(c net.Conn) string {
			res, err := http.ReadResponse(bufio.NewReader(c), nil)
			require.NoError(t, err)
			text, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			return string(text)
		},
		"it is hung up on": func(c net.Conn) string { return "" },
	} {
		c, err := net.Dial("tcp", strings.TrimPrefix(server.URL, "http://"))
		require.NoError(t, err)
		_, err = fmt.Fprint(
			c,
			"POST /api/v1/feeds?name=list.csv HTTP/1.1\r\nHost: localhost\r\nContent-Length: 1000000\r\n\r\nref,title,cost\nA,Mug,1.00\n",
		)
		require.NoError(t, err)
		if said := end(c); said != "" {
			assert.Contains(t, said, "nothing of it was kept", name)
		}
		require.NoError(t, c.Close())
	}
	server.Close() // waits for what is being answered
	left, err := os.ReadDir(s.Inbox(""))
	require.NoError(t, err)
	assert.Empty(t, left)
}
