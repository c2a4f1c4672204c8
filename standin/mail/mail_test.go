package mail

import (
	"net"
	"net/smtp"
	"net/textproto"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestAMessageHandedOverCanBeRead(t *testing.T) {
	folder := t.TempDir()
	s, err := Start(folder)
	require.NoError(t, err)
	defer s.Close()
	for _, subject := range []string{"first", "=?utf-8?q?zw=C3=B6lf?="} {
		text := "From: hall@lantern-street.example\r\nTo: ines@lantern-street.example\r\nSubject: " + subject + "\r\nDate: Tue, 24 Nov 2026 17:45:00 +0000\r\n\r\nTuesday is closed.\r\n.a line with a dot\r\n"
		require.NoError(t, smtp.SendMail(s.Addr(), nil, "hall@lantern-street.example", []string{"ines@lantern-street.example"}, []byte(text)))
	}
	all, err := Letters(folder, 10)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.Equal(t, "zwölf", all[0].Subject, "the newest first")
	assert.Equal(t, "ines@lantern-street.example", all[1].To)
	assert.Equal(t, "Tuesday is closed.\n.a line with a dot\n", all[1].Text)
	assert.Equal(t, 2026, all[1].On.Year())

	few, err := Letters(folder, 1)
	require.NoError(t, err)
	assert.Len(t, few, 1)
	none, err := Letters(folder+"/nowhere", 5)
	require.NoError(t, err)
	assert.Empty(t, none)
	require.NoError(t, os.WriteFile(folder+"/x.eml", []byte("nothing of ours"), 0o600))
	all, err = Letters(folder, 10)
	require.NoError(t, err)
	assert.Len(t, all, 2)
}

func TestTheConversationMindsItsOrder(t *testing.T) {
	s, err := Start(t.TempDir())
	require.NoError(t, err)
	defer s.Close()
	c, err := net.Dial("tcp", s.Addr())
	require.NoError(t, err)
	talk := textproto.NewConn(c)
	defer talk.Close()
	_, _, err = talk.ReadResponse(220)
	require.NoError(t, err)
	for _, x := range []struct {
		say  string
		code int
	}{{"RCPT TO:<a@b.example>", 503}, {"DATA", 503}, {"EHLO here", 250}, {"FLY", 502}, {"MAIL FROM:<a@b.example>", 250}, {"DATA", 503}, {"RSET", 250}, {"NOOP", 250}, {"QUIT", 221}} {
		require.NoError(t, talk.PrintfLine("%s", x.say))
		_, _, err := talk.ReadResponse(x.code)
		assert.NoError(t, err, x.say)
	}
	assert.Equal(t, "a@b.example", address("FROM:<a@b.example> SIZE=3"))
	assert.Equal(t, "", address(strings.Repeat("x", 3)))
}
