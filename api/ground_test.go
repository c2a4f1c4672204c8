package api

import (
	"bufio"
	"fmt"
	"net"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What nobody who means well sends is refused shortly, before anybody signs in.
func TestMalformedBodiesAreRefusedShortly(t *testing.T) {
	h := open(t)
	for name, raw := range map[string]string{
		"a chunk that is none":    "Transfer-Encoding: chunked\r\n\r\nzzz\r\n{}\r\n0\r\n\r\n",
		"a chunk too short":       "Transfer-Encoding: chunked\r\n\r\n5\r\n{\"\r\nX\r\n0\r\n\r\n",
		"no end of a chunk":       "Transfer-Encoding: chunked\r\nConnection: close\r\n\r\n2\r\n{}",
		"deeply nested":           fmt.Sprintf("Content-Length: %d\r\n\r\n%s", 1<<20-10, strings.Repeat("[", 1<<20-10)),
		"a long text":             fmt.Sprintf("Content-Length: %d\r\n\r\n\"%s\"", 1<<19+2, strings.Repeat("x", 1<<19)),
		"a long name":             fmt.Sprintf("Content-Length: %d\r\n\r\n{\"%s\":1}", 1<<19+6, strings.Repeat("x", 1<<19)),
		"a long list of wrong":    fmt.Sprintf("Content-Length: %d\r\n\r\n[%s1]", 2*200000+3, strings.Repeat("1,", 200000)),
		"many fields that are no": fmt.Sprintf("Content-Length: %d\r\n\r\n{%s\"z\":1}", 9*50000+7, many(50000)),
	} {
		for _, path := range []string{"/api/session", "/api/setup"} {
			conn, err := net.Dial("tcp", strings.TrimPrefix(h.url, "http://"))
			require.NoError(t, err)
			_, err = fmt.Fprintf(conn, "POST %s HTTP/1.1\r\nHost: x\r\nContent-Type: application/json\r\n%s", path, raw)
			require.NoError(t, err, name)
			if name == "no end of a chunk" {
				require.NoError(t, conn.(*net.TCPConn).CloseWrite())
			}
			answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
			require.NoError(t, err, name)
			size := 0
			buffer := make([]byte, 32<<10)
			for {
				n, err := answer.Body.Read(buffer)
				size += n
				if err != nil {
					break
				}
			}
			assert.Less(t, answer.StatusCode, 500, "%s %s", path, name)
			assert.GreaterOrEqual(t, answer.StatusCode, 400, "%s %s", path, name)
			assert.Less(t, size, 20<<10, "%s %s", path, name)
			conn.Close()
		}
	}
}

func many(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "\"%05d\":1,", i)
	}
	return b.String()
}
