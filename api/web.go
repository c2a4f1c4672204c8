package api

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"html/template"
	"io"
	"io/fs"
	"log/slog"
	"mime"
	"net/http"
	"path"
	"runtime/debug"
	"sort"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"vereda/ui"
)

// policy lets a page use nothing but what this server serves.
const policy = "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

func guarded(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		r.Body = http.MaxBytesReader(w, r.Body, bodyLimit)
		next.ServeHTTP(w, r)
	})
}

func recovered(c *gin.Context, err any) {
	slog.Error("a request panicked", "path", c.Request.URL.Path, "error", err, "stack", string(debug.Stack()))
	if c.Writer.Written() {
		c.Abort()
		return
	}
	tell(c.Writer, c.Request, refusal(http.StatusInternalServerError, "Something went wrong on the server; its log says what."))
	c.Abort()
}

// logged notes slow and failed requests.
func logged(c *gin.Context) {
	start := time.Now()
	c.Next()
	took := time.Since(start)
	stream := strings.HasPrefix(c.Writer.Header().Get("Content-Type"), "text/event-stream") // which is as long as somebody looks
	if took > 300*time.Millisecond && !stream || c.Writer.Status() >= 500 {
		slog.Warn("request", "method", c.Request.Method, "path", c.Request.URL.Path, "status", c.Writer.Status(), "took", took.Round(time.Millisecond))
	}
}

// file is one file of the interface, ready to send.
type file struct {
	plain, packed []byte
	kind, tag     string
}

// noOperation answers what is under /api and is no operation.
func noOperation(c *gin.Context) {
	tell(c.Writer, c.Request, refusal(http.StatusNotFound, "There is no such operation."))
}

// interfaceFirst serves the built interface, which needs no session, and leaves operations to next. Every path that is
// neither is the interface's own and gets its one page. Files are packed once, at the start.
func interfaceFirst(next http.Handler) http.Handler {
	files := map[string]file{}
	_ = fs.WalkDir(ui.Files(), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		plain, err := fs.ReadFile(ui.Files(), name)
		if err != nil {
			return err
		}
		sum := sha256.Sum256(plain)
		f := file{plain: plain, kind: mime.TypeByExtension(path.Ext(name)), tag: `"` + hex.EncodeToString(sum[:8]) + `"`}
		if strings.HasSuffix(name, ".js") || strings.HasSuffix(name, ".css") || strings.HasSuffix(name, ".html") || strings.HasSuffix(name, ".svg") {
			var out bytes.Buffer
			z, _ := gzip.NewWriterLevel(&out, gzip.BestCompression)
			_, _ = z.Write(plain)
			_ = z.Close()
			f.packed = out.Bytes()
		}
		if path.Ext(name) == ".webmanifest" {
			f.kind = "application/manifest+json"
		}
		files["/"+name] = f
		return nil
	})
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := r.URL.Path
		if r.Method != http.MethodGet && r.Method != http.MethodHead || name == "/metrics" || strings.HasPrefix(name, "/api/") || strings.HasPrefix(name, "/calendar/") {
			next.ServeHTTP(w, r)
			return
		}
		h := w.Header()
		f, ok := files[name]
		if strings.HasPrefix(name, "/assets/") && ok {
			h.Set("Cache-Control", "public, max-age=31536000, immutable")
		} else {
			if !ok {
				f, ok = files["/index.html"]
			}
			h.Set("Cache-Control", "no-cache")
		}
		if !ok || strings.HasPrefix(name, "/assets/") && files[name].plain == nil {
			http.Error(w, "The interface is not built: run make.", http.StatusNotFound)
			return
		}
		h.Set("ETag", f.tag)
		h.Set("Vary", "Accept-Encoding")
		if r.Header.Get("If-None-Match") == f.tag {
			w.WriteHeader(http.StatusNotModified)
			return
		}
		if f.packed != nil && strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
			h.Set("Content-Encoding", "gzip")
			h.Set("Content-Type", f.kind)
			_, _ = w.Write(f.packed)
			return
		}
		h.Set("Content-Type", f.kind)
		_, _ = w.Write(f.plain)
	})
}

type docOperation struct {
	Method, Path, ID, Summary string
	Params                    []*huma.Param
	Body                      string
	Answers                   string
}

type docArea struct {
	Name       string
	Operations []docOperation
}

var docsPage = template.Must(template.New("docs").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Vereda API</title><link rel="stylesheet" href="/api/docs.css">
<main><h1>Vereda API</h1><p>{{.Description}}</p><p>The same as a document for programs: <a href="/api/openapi.json">OpenAPI 3.1, JSON</a>, <a href="/api/openapi.yaml">YAML</a>. Errors are problem details (RFC 9457).</p>
{{range .Areas}}<h2>{{.Name}}</h2>{{range .Operations}}<section id="{{.ID}}"><h3><b>{{.Method}}</b> <code>{{.Path}}</code></h3><p>{{.Summary}} <small>{{.ID}}</small></p>
{{if .Params}}<table>{{range .Params}}<tr><td><code>{{.Name}}</code><td>{{.In}}{{if .Required}}, required{{end}}<td>{{.Description}}{{end}}</table>{{end}}
{{if .Body}}<p>Takes <a href="#schema-{{.Body}}">{{.Body}}</a></p>{{end}}{{if .Answers}}<p>Answers <a href="#schema-{{.Answers}}">{{.Answers}}</a></p>{{end}}</section>{{end}}{{end}}
<h2>Schemas</h2>{{range .Schemas}}<section id="schema-{{.Name}}"><h3><code>{{.Name}}</code></h3><table>{{range .Fields}}<tr><td><code>{{.Name}}</code><td>{{.Type}}<td>{{.Summary}}{{end}}</table></section>{{end}}</main>`))

type docSchema struct {
	Name   string
	Fields []docField
}

type docField struct{ Name, Type, Summary string }

// docs shows the operations as a page that loads nothing from elsewhere.
func (s *Server) docs(c *gin.Context) {
	doc := s.api.OpenAPI()
	areas := map[string]*docArea{}
	for p, item := range doc.Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PUT": item.Put, "DELETE": item.Delete} {
			if op == nil {
				continue
			}
			d := docOperation{Method: method, Path: p, ID: op.OperationID, Summary: op.Summary, Params: op.Parameters}
			if op.RequestBody != nil {
				d.Body = schemaOf(op.RequestBody.Content)
			}
			if ok := op.Responses["200"]; ok != nil {
				d.Answers = schemaOf(ok.Content)
			}
			name := op.Tags[0]
			if areas[name] == nil {
				areas[name] = &docArea{Name: name}
			}
			areas[name].Operations = append(areas[name].Operations, d)
		}
	}
	page := struct {
		Description string
		Areas       []*docArea
		Schemas     []docSchema
	}{Description: doc.Info.Description}
	for _, a := range areas {
		sort.Slice(a.Operations, func(i, j int) bool {
			return a.Operations[i].Path+a.Operations[i].Method < a.Operations[j].Path+a.Operations[j].Method
		})
		page.Areas = append(page.Areas, a)
	}
	sort.Slice(page.Areas, func(i, j int) bool { return page.Areas[i].Name < page.Areas[j].Name })
	page.Schemas = docSchemas(doc)
	c.Header("Content-Type", "text/html; charset=utf-8")
	_ = docsPage.Execute(c.Writer, page)
}

func docSchemas(doc *huma.OpenAPI) []docSchema {
	var all []docSchema
	for name, schema := range doc.Components.Schemas.Map() {
		d := docSchema{Name: name}
		for field, of := range schema.Properties {
			d.Fields = append(d.Fields, docField{field, typeOf(of), of.Description})
		}
		sort.Slice(d.Fields, func(i, j int) bool { return d.Fields[i].Name < d.Fields[j].Name })
		all = append(all, d)
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Name < all[j].Name })
	return all
}

func typeOf(s *huma.Schema) string {
	switch {
	case s.Ref != "":
		return path.Base(s.Ref)
	case s.Type == "array" && s.Items != nil:
		return "list of " + typeOf(s.Items)
	}
	return s.Type
}

func schemaOf(content map[string]*huma.MediaType) string {
	for _, m := range content {
		if m.Schema != nil {
			return strings.TrimPrefix(typeOf(m.Schema), "list of ")
		}
	}
	return ""
}

func docsStyle(c *gin.Context) {
	c.Header("Content-Type", "text/css")
	_, _ = io.WriteString(c.Writer, "body{margin:0;background:#f6f3ec;color:#1c2826;font:15px/1.5 system-ui,sans-serif}main{max-width:60rem;margin:0 auto;padding:2rem}h2{border-bottom:1.5px solid;margin-top:2.5rem}section{border-bottom:1px solid #d9d2c3;padding:.4rem 0}h3{font-size:1rem;margin:.3rem 0}h3 b{color:#17597a}td{padding:.1rem 1rem .1rem 0;vertical-align:top}a{color:#17597a}p{margin:.3rem 0}small{color:#5b6660}")
}
