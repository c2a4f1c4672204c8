package accounts

import (
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/trustelem/zxcvbn"
	"golang.org/x/crypto/argon2"

	"vereda/app/state"
)

// How long a password must be, and may be. Length comes first: what it is made of is not asked.
const (
	LeastPassword = 12
	mostPassword  = 128
)

// leastScore is the least zxcvbn gives to a password that would take some years to guess (0 to 4).
const leastScore = 3

// checkPassword refuses a password that is short, or easily guessed by somebody who knows the words around it.
func checkPassword(password string, known ...string) error {
	switch n := utf8.RuneCountInString(password); {
	case n < LeastPassword:
		return state.Invalid("password", "%d characters are too few: give at least %d, several words for instance", n, LeastPassword)
	case n > mostPassword:
		return state.Invalid("password", "%d characters are more than %d", n, mostPassword)
	}
	words := append([]string{"vereda"}, known...)
	for _, k := range known {
		words = append(words, strings.Fields(k)...)
	}
	left := strings.ToLower(password)
	for _, w := range words {
		if utf8.RuneCountInString(w) >= 3 {
			left = strings.ReplaceAll(left, strings.ToLower(w), "")
		}
	}
	if n := len(strings.FieldsFunc(left, func(r rune) bool { return r == ' ' })); n == 0 || utf8.RuneCountInString(strings.ReplaceAll(left, " ", "")) < 6 {
		return state.Invalid("password", "this is your name, or the academy's, which is guessed first: choose other words")
	}
	// Guessing takes long enough with the first part; the estimate's cost grows with the length.
	if zxcvbn.PasswordStrength(string([]rune(password)[:min(64, utf8.RuneCountInString(password))]), words).Score < leastScore {
		return state.Invalid("password", "this is among the passwords that are guessed first: choose other words, or more of them")
	}
	return nil
}

// hashing bounds how many passwords are hashed at once: each takes 32 MiB.
var hashing = make(chan struct{}, 2*runtime.NumCPU())

var nobodysHash = sync.OnceValue(func() string { h, _ := hashPassword("nobody"); return h })

func hashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	hashing <- struct{}{}
	defer func() { <-hashing }()
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, 32)
	b64 := base64.RawStdEncoding
	return fmt.Sprintf("argon2id$%d$%d$%d$%s$%s", argonTime, argonMemory, argonThreads, b64.EncodeToString(salt), b64.EncodeToString(key)), nil
}

func samePassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[0] != "argon2id" {
		return false
	}
	t, errT := strconv.ParseUint(parts[1], 10, 32)
	m, errM := strconv.ParseUint(parts[2], 10, 32)
	p, errP := strconv.ParseUint(parts[3], 10, 8)
	salt, errS := base64.RawStdEncoding.DecodeString(parts[4])
	want, errW := base64.RawStdEncoding.DecodeString(parts[5])
	if errors.Join(errT, errM, errP, errS, errW) != nil {
		return false
	}
	hashing <- struct{}{}
	defer func() { <-hashing }()
	got := argon2.IDKey([]byte(password), salt, uint32(t), uint32(m), uint8(p), uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// newToken makes a secret of 256 bits that fits into an address.
func newToken() string {
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails (crypto/rand)
	return base64.RawURLEncoding.EncodeToString(raw)
}

// hashOf is what is kept of a token: whoever reads the tables cannot use it.
func hashOf(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}
