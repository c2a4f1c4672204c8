// Package mail is a stand-in for a mail server: it speaks enough SMTP to be
// handed a message, keeps what it gets as files in a folder, and sends nothing on.
package mail

import (
	"bufio"
	"fmt"
	"io"
	"mime"
	"net"
	"net/mail"
	"net/textproto"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

// Server takes messages on a loopback port until it is closed.
type Server struct {
	l      net.Listener
	folder string
	mu     sync.Mutex
	n      int
}

// mostBytes is the longest message it takes.
const mostBytes = 1 << 20

// Start listens on a free loopback port and keeps messages in folder.
func Start(folder string) (*Server, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for letters: %w", err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s := &Server{l: l, folder: folder}
	go s.accept()
	return s, nil
}

// Addr is where it listens.
func (s *Server) Addr() string { return s.l.Addr().String() }

// Close stops it; what it was handed stays.
func (s *Server) Close() error { return s.l.Close() }

func (s *Server) accept() {
	for {
		c, err := s.l.Accept()
		if err != nil {
			return
		}
		go s.talk(c)
	}
}

// talk holds one conversation: HELO or EHLO, MAIL, RCPT, DATA, RSET, NOOP, QUIT.
func (s *Server) talk(c net.Conn) {
	defer c.Close()
	c.SetDeadline(time.Now().Add(time.Minute))
	t := textproto.NewConn(c)
	say := func(line string) { t.PrintfLine("%s", line) }
	say("220 stand-in ready")
	var from string
	var to []string
	for {
		line, err := t.ReadLine()
		if err != nil {
			return
		}
		verb, rest, _ := strings.Cut(line, " ")
		switch strings.ToUpper(verb) {
		case "HELO", "EHLO":
			say("250 stand-in")
		case "MAIL":
			from, to = address(rest), nil
			say("250 ok")
		case "RCPT":
			if from == "" {
				say("503 MAIL first")
				continue
			}
			to = append(to, address(rest))
			say("250 ok")
		case "DATA":
			if len(to) == 0 {
				say("503 RCPT first")
				continue
			}
			say("354 end with a dot alone")
			text, err := io.ReadAll(io.LimitReader(t.DotReader(), mostBytes+1))
			if err != nil {
				return
			}
			if len(text) > mostBytes {
				say("552 too long")
				return
			}
			if err := s.keep(text); err != nil {
				say("451 it could not be kept")
				continue
			}
			from, to = "", nil
			say("250 kept")
		case "RSET":
			from, to = "", nil
			say("250 ok")
		case "NOOP":
			say("250 ok")
		case "QUIT":
			say("221 bye")
			return
		default:
			say("502 not known here")
		}
	}
}

// address takes what stands between the angle brackets.
func address(rest string) string {
	_, after, _ := strings.Cut(rest, "<")
	inside, _, _ := strings.Cut(after, ">")
	return inside
}

func (s *Server) keep(text []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.n++
	name := fmt.Sprintf("%s-%04d.eml", time.Now().UTC().Format("20060102T150405.000000000"), s.n)
	whole := filepath.Join(s.folder, name)
	if err := os.WriteFile(whole+".part", text, 0o600); err != nil {
		return err
	}
	return os.Rename(whole+".part", whole)
}

// Letter is one message as it can be read.
type Letter struct {
	To      string    `json:"to"`
	From    string    `json:"from"`
	Subject string    `json:"subject"`
	On      time.Time `json:"on"`
	Text    string    `json:"text"`
}

// Letters reads the newest messages of a folder, the newest first. A folder
// that is not there holds none.
func Letters(folder string, most int) ([]Letter, error) {
	names, err := filepath.Glob(filepath.Join(folder, "*.eml"))
	if err != nil {
		return nil, err
	}
	slices.Sort(names)
	slices.Reverse(names)
	all := []Letter{}
	for _, name := range names[:min(most, len(names))] {
		f, err := os.Open(name)
		if err != nil {
			return nil, err
		}
		m, err := mail.ReadMessage(bufio.NewReader(f))
		if err != nil {
			f.Close()
			continue // not ours
		}
		text, err := io.ReadAll(io.LimitReader(m.Body, mostBytes))
		f.Close()
		if err != nil {
			return nil, err
		}
		on, _ := m.Header.Date()
		words := new(mime.WordDecoder)
		decoded := func(k string) string {
			v := m.Header.Get(k)
			if plain, err := words.DecodeHeader(v); err == nil {
				return plain
			}
			return v
		}
		all = append(all, Letter{decoded("To"), decoded("From"), decoded("Subject"), on, strings.ReplaceAll(string(text), "\r\n", "\n")})
	}
	return all, nil
}
