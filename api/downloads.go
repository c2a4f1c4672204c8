package api

import (
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"vereda/app/state"
	"vereda/core/validation"
	"vereda/exchange"
)

// download is what is not JSON. It asks the same table of permissions as
// operation does, and stands in the same document.
type download struct {
	path, id, summary, kind string
	run                     func(s *Server, c *gin.Context, u state.User) error
}

var downloads = []download{
	{"/files/{digest}", "get-file", "An attached picture or clip", "*/*", (*Server).file},
	{"/library/folder.zip", "export-folder", "The library as a zip of Markdown files with its pictures", "application/zip", (*Server).folder},
	{"/people/roster.csv", "export-roster", "Everybody as CSV", "text/csv", (*Server).roster},
	{"/people/attendance.csv", "export-attendance", "Everybody's attendance as CSV", "text/csv", (*Server).attendanceList},
	{"/people/checks.csv", "export-checks", "Everybody's checks as CSV", "text/csv", (*Server).checkList},
	{"/people/{id}/data.json", "export-person", "Everything kept of one person: for themselves, their guardian, the head instructor", "application/json", (*Server).personData},
	{"/promotions/{day}/certificates.pdf", "export-certificates", "A certificate for each who was given something on a day", "application/pdf", (*Server).certificates},
	{"/classes/{id}/brief.pdf", "export-brief", "A class on one page, for a coach who did not plan it", "application/pdf", (*Server).brief},
	{"/classes/{id}/brief.html", "export-brief-html", "The same as a document of its own", "text/html", (*Server).briefHTML},
	{"/students/{id}/report.pdf", "export-student-report", "Where one student stands", "application/pdf", reportPDF((*Server).studentReport)},
	{"/students/{id}/report.html", "export-student-report-html", "The same as a document of its own", "text/html", reportHTML((*Server).studentReport)},
	{"/curricula/{id}/report.pdf", "export-rank-report", "How far those who work on a rank are with it", "application/pdf", reportPDF((*Server).rankReport)},
	{"/curricula/{id}/report.html", "export-rank-report-html", "The same as a document of its own", "text/html", reportHTML((*Server).rankReport)},
	{"/seasons/{id}/report.pdf", "export-season-report", "A season's coverage, and what was taught of it", "application/pdf", reportPDF((*Server).seasonReport)},
	{"/seasons/{id}/report.html", "export-season-report-html", "The same as a document of its own", "text/html", reportHTML((*Server).seasonReport)},
	{"/curricula/{id}/list.csv", "export-list", "The requirements of a rank as CSV", "text/csv", (*Server).list},
	{"/curricula/{id}/booklet.pdf", "export-booklet", "The curriculum of a rank as a booklet", "application/pdf", (*Server).booklet},
	{"/curricula/{id}/test-sheet.pdf", "export-test-sheet", "The test sheet of a rank", "application/pdf", (*Server).testSheet},
	{"/map/map.dot", "export-map-dot", "The map in the DOT language", "text/vnd.graphviz", (*Server).mapDOT},
	{"/map/map.graphml", "export-map-graphml", "The map as GraphML", "application/graphml+xml", (*Server).mapGraphML},
}

// describeDownloads adds them to the OpenAPI document.
func (s *Server) describeDownloads() {
	for _, d := range downloads {
		op := &huma.Operation{OperationID: d.id, Method: get, Path: "/api" + d.path, Summary: d.summary, Tags: []string{area(d.path)},
			Responses: map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{d.kind: {}}}}}
		if strings.Contains(d.path, "{id}") {
			op.Parameters = []*huma.Param{{Name: "id", In: "path", Required: true, Schema: &huma.Schema{Type: "string"}}}
		}
		if strings.Contains(d.path, "{day}") {
			op.Parameters = []*huma.Param{{Name: "day", In: "path", Required: true, Schema: &huma.Schema{Type: "string", Format: "date"}}}
		}
		if d.id == "get-file" {
			op.Parameters = []*huma.Param{{Name: "digest", In: "path", Required: true, Schema: &huma.Schema{Type: "string", Pattern: "^[0-9a-f]{64}$"}}}
		}
		s.api.OpenAPI().AddOperation(op)
	}
}

// serveDownloads registers them.
func (s *Server) serveDownloads(router gin.IRoutes) {
	for _, d := range downloads {
		if len(permissions[d.id]) == 0 {
			panic("api: download " + d.id + " is not in the table of permissions")
		}
		router.GET("/api"+strings.ReplaceAll(strings.ReplaceAll(d.path, "{", ":"), "}", ""), func(c *gin.Context) {
			u, err := s.allowed(c.Request.Context(), d.id)
			if err == nil && !validation.Readable(c.Param("id")+c.Param("day")) {
				err = refusal(http.StatusBadRequest, "The address holds characters that cannot be read: copy it again.")
			}
			if err == nil {
				if err = d.run(s, c, u); err != nil {
					err = problem(err)
				}
			}
			refused(c, err)
		})
	}
}

func (s *Server) file(c *gin.Context, u state.User) error {
	file, kind, err := s.app.Library.Attachment(c.Request.Context(), u, c.Param("digest"))
	if err != nil {
		return err
	}
	defer file.Close()
	// The content was judged when it came; nothing in it may run, whatever it is.
	c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	c.Header("Content-Type", kind)
	c.Header("Content-Disposition", "inline")
	c.Header("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, file)
	return nil
}

func (s *Server) folder(c *gin.Context, u state.User) error {
	packed, err := s.app.Library.ExportFolder(c.Request.Context(), u)
	return send(c, "library.zip", "application/zip", packed, err)
}

func (s *Server) mapDOT(c *gin.Context, u state.User) error {
	lib, err := s.app.Library.Library(c.Request.Context(), u)
	if err != nil {
		return err
	}
	return send(c, "map.dot", "text/vnd.graphviz; charset=utf-8", exchange.WriteDOT(lib), nil)
}

func (s *Server) mapGraphML(c *gin.Context, u state.User) error {
	lib, err := s.app.Library.Library(c.Request.Context(), u)
	if err != nil {
		return err
	}
	text, err := exchange.WriteGraphML(lib)
	return send(c, "map.graphml", "application/graphml+xml", text, err)
}

func (s *Server) list(c *gin.Context, u state.User) error {
	text, err := s.app.Curricula.RequirementsCSV(c.Request.Context(), u, c.Param("id"))
	return send(c, "requirements.csv", "text/csv; charset=utf-8", text, err)
}

func (s *Server) booklet(c *gin.Context, u state.User) error { return s.sheetPDF(c, u, false) }

func (s *Server) testSheet(c *gin.Context, u state.User) error { return s.sheetPDF(c, u, true) }

func (s *Server) sheetPDF(c *gin.Context, u state.User, test bool) error {
	sheet, err := s.app.Curricula.RankSheet(c.Request.Context(), u, c.Param("id"), test)
	if err != nil {
		return err
	}
	in := languageOf(c.Request.Context())
	text, err := exchange.WriteSheetPDF(sheet, in)
	return send(c, strings.ReplaceAll(strings.ToLower(sheet.Title.In(in)), " ", "-")+".pdf", "application/pdf", text, err)
}

// reporter makes a report of what the path names.
type reporter func(s *Server, c *gin.Context, u state.User) (exchange.Report, error)

func (s *Server) studentReport(c *gin.Context, u state.User) (exchange.Report, error) {
	return s.app.Students.StudentReport(c.Request.Context(), u, c.Param("id"), languageOf(c.Request.Context()))
}

func (s *Server) rankReport(c *gin.Context, u state.User) (exchange.Report, error) {
	return s.app.Students.RankReport(c.Request.Context(), u, c.Param("id"), languageOf(c.Request.Context()))
}

func (s *Server) seasonReport(c *gin.Context, u state.User) (exchange.Report, error) {
	return s.app.Seasons.Report(c.Request.Context(), u, c.Param("id"), languageOf(c.Request.Context()))
}

func reportPDF(of reporter) func(*Server, *gin.Context, state.User) error {
	return func(s *Server, c *gin.Context, u state.User) error {
		r, err := of(s, c, u)
		if err != nil {
			return err
		}
		text, err := exchange.WriteReportPDF(r)
		return send(c, "report-"+r.Made.String()+".pdf", "application/pdf", text, err)
	}
}

func reportHTML(of reporter) func(*Server, *gin.Context, state.User) error {
	return func(s *Server, c *gin.Context, u state.User) error {
		r, err := of(s, c, u)
		if err != nil {
			return err
		}
		text, err := exchange.WriteReportHTML(r)
		return send(c, "report-"+r.Made.String()+".html", "text/html; charset=utf-8", text, err)
	}
}

func send(c *gin.Context, name, kind string, content []byte, err error) error {
	if err != nil {
		return err
	}
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	c.Data(http.StatusOK, kind, content)
	return nil
}

// bodyLimit is the most a request may send; each operation has its own limit below it.
const bodyLimit = largestImport
