package api

import (
	"cmp"
	"context"
	"net/http"
	"time"

	"vereda/core/say"
)

// caller is where a request comes from: kept beside it, so that whoever needs it does not ask the router.
type caller struct {
	w              http.ResponseWriter
	address, agent string
	device         string // what the browser was given when somebody signed in with it before
	secure         bool
	language       say.Language // what a page asks for, or of a document what its address does
}

type callerKey struct{}

const deviceCookie = "vereda-device"

// called keeps who asks beside the request.
func called(secure bool, next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c := caller{w: w, address: host(r.RemoteAddr), agent: r.UserAgent(), secure: secure, language: say.Asked(cmp.Or(r.URL.Query().Get("language"), r.Header.Get("Accept-Language")))}
		if k, err := r.Cookie(deviceCookie); err == nil {
			c.device = k.Value
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), callerKey{}, c)))
	})
}

func callerOf(ctx context.Context) caller {
	c, _ := ctx.Value(callerKey{}).(caller)
	return c
}

// keepDevice lets the browser remember that somebody signed in with it. It opens nothing by itself.
func (c caller) keepDevice(token string) {
	if c.w != nil && token != "" {
		http.SetCookie(c.w, &http.Cookie{Name: deviceCookie, Value: token, Path: "/api", MaxAge: int(365 * 24 * time.Hour / time.Second), HttpOnly: true, Secure: c.secure, SameSite: http.SameSiteLaxMode})
	}
}

// host is an address without its port.
func host(address string) string {
	for i := len(address) - 1; i > 0; i-- {
		if address[i] == ':' {
			return address[:i]
		}
	}
	return address
}
