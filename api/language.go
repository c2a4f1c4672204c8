package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	jsonv2 "github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	jsonv1 "github.com/go-json-experiment/json/v1"

	"vereda/core/say"
	"vereda/core/validation"
)

// spoken is an answer with the language it is said in.
type spoken struct {
	in   say.Language
	body any
}

// inLanguage lets an answer be said in the language its reader asked for.
func inLanguage(ctx huma.Context, _ string, body any) (any, error) {
	ctx.SetHeader("Vary", "Accept-Language")
	return spoken{say.Asked(ctx.Header("Accept-Language")), body}, nil
}

// wholeJSON writes an answer once all of it could be made into JSON. One that cannot is a
// mistake of the program: it is logged, and answered as one.
var wholeJSON = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		var b bytes.Buffer
		if err := writeSpoken(&b, v); err != nil {
			panic(fmt.Errorf("an answer cannot be written as JSON: %w", err))
		}
		_, err := w.Write(b.Bytes())
		return err
	},
	Unmarshal: func(text []byte, v any) error {
		if err := bounded(text); err != nil {
			return err
		}
		return huma.DefaultJSONFormat.Unmarshal(text, v)
	},
}

// What a request's JSON may hold, however long its texts are: each value takes some forty times its size in memory.
const (
	mostValues = 200_000
	mostDepth  = 64
)

// bounded says what is too much in a JSON text, without reading more of it than its marks.
func bounded(text []byte) error {
	values, depth, quoted := 0, 0, false
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '[' || c == '{':
			depth++
			values++
		case c == ']' || c == '}':
			depth--
		case c == ',':
			values++
		}
		if depth > mostDepth || values > mostValues {
			return say.Errorf("The request holds more than anybody needs: send it in parts.")
		}
	}
	return nil
}

// sentencesIn writes sentences in a language, wherever they stand in an answer.
var sentencesIn = map[say.Language]jsonv2.Options{
	say.Portuguese: sentenceOptions(say.Portuguese), say.Spanish: sentenceOptions(say.Spanish),
}

func sentenceOptions(in say.Language) jsonv2.Options {
	return jsonv2.JoinOptions(jsonv1.DefaultOptionsV1(), jsontext.EscapeForHTML(false), jsonv2.WithMarshalers(jsonv2.MarshalToFunc(func(out *jsontext.Encoder, s say.Sentence) error {
		return out.WriteToken(jsontext.String(s.In(in)))
	})))
}

func writeSpoken(w io.Writer, v any) error {
	if x, ok := v.(spoken); ok {
		if options := sentencesIn[x.in]; options != nil {
			return jsonv2.MarshalWrite(w, x.body, options)
		}
		v = x.body
	}
	return huma.DefaultJSONFormat.Marshal(w, v)
}

// ErrorModel says what was refused, why, and of which fields. Its type and shape are those of RFC 9457.
type ErrorModel struct {
	Type   string       `json:"type,omitempty" format:"uri" default:"about:blank" doc:"A URI reference to human-readable documentation for the error."`
	Title  string       `json:"title,omitempty" doc:"The words of the HTTP status"`
	Status int          `json:"status,omitempty" doc:"HTTP status code"`
	Detail say.Sentence `json:"detail,omitempty" doc:"What was refused, and the fix, in the language asked for"`
	Errors []ErrorField `json:"errors,omitempty" required:"false" doc:"What is wrong field by field, in the language asked for"`
}

// ErrorField is what is wrong with one field.
type ErrorField struct {
	Location string       `json:"location,omitempty" doc:"Where, such as body.items[3].tags or path.id"`
	Message  say.Sentence `json:"message,omitempty"`
	Value    any          `json:"value,omitempty" doc:"What stood there"`
}

func (e ErrorField) Error() string { return e.Message.String() }

func (e *ErrorModel) Error() string { return e.Detail.String() }

// GetStatus is the HTTP status.
func (e *ErrorModel) GetStatus() int { return e.Status }

// ContentType is that of problem details.
func (e *ErrorModel) ContentType(string) string { return "application/problem+json" }

// mostErrors is how many things wrong with a request are told at once.
const mostErrors = 10

// refusal is what is answered where something is refused.
func refusal(status int, why say.Sentence, fields ...ErrorField) *ErrorModel {
	if n := len(fields); n > mostErrors {
		fields = append(fields[:mostErrors:mostErrors], ErrorField{Message: say.F("and %d more", n-mostErrors)})
	}
	return &ErrorModel{Title: http.StatusText(status), Status: status, Detail: why, Errors: fields}
}

func init() {
	// What the library refuses by itself comes as texts; what this package hands to it is said already.
	huma.NewError = func(status int, message string, errs ...error) huma.StatusError {
		fields := make([]ErrorField, 0, len(errs))
		for _, err := range errs {
			var said *ErrorModel
			if errors.As(err, &said) {
				return said
			}
			if detailed, ok := err.(huma.ErrorDetailer); ok {
				d := detailed.ErrorDetail()
				fields = append(fields, ErrorField{validation.Shorten(d.Location, mostEchoed), shortened(ofShape(d.Message)), echoed(d.Value)})
			} else if err != nil {
				fields = append(fields, ErrorField{Message: shortened(say.OfError(err))})
			}
			if len(fields) > 2*mostErrors {
				break
			}
		}
		if message == "cannot read request body" { // what the library says where a body ends early or its chunks are none
			return refusal(http.StatusBadRequest, "The request broke off before its end: send it again.")
		}
		return refusal(status, ofShape(message), fields...)
	}
}

// mostEchoed is how much of what was sent is said back, in characters.
const mostEchoed = 200

// shortened is a sentence no longer than what is said back.
func shortened(s say.Sentence) say.Sentence {
	if text := s.String(); len(text) > 2*mostEchoed {
		return say.Raw(validation.Shorten(text, mostEchoed))
	}
	return s
}

// echoed is what stood in a field, where it is short enough to help.
func echoed(value any) any {
	switch v := value.(type) {
	case string:
		return validation.Shorten(v, mostEchoed)
	case bool, float64, int, int64, nil:
		return v
	}
	return nil
}

// told is an error as it is answered: one that is no refusal is a mistake of the program, and says no more.
func told(err error) *ErrorModel {
	var said *ErrorModel
	if errors.As(err, &said) {
		return said
	}
	return refusal(http.StatusInternalServerError, "Something went wrong on the server.")
}

// refuse answers a request before its operation ran.
func refuse(api huma.API, ctx huma.Context, err error) {
	said := told(err)
	_ = huma.WriteErr(api, ctx, said.Status, "", said)
}

// tell answers a refusal where no operation of the library runs.
func tell(w http.ResponseWriter, r *http.Request, told *ErrorModel) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.Header().Set("Vary", "Accept-Language")
	w.WriteHeader(told.Status)
	_ = writeSpoken(w, spoken{say.Asked(r.Header.Get("Accept-Language")), told})
}

// refused answers with an error, if it is one.
func refused(c *gin.Context, err error) bool {
	if err == nil {
		return false
	}
	tell(c.Writer, c.Request, told(err))
	return true
}

// languageOf is the language a request asked for.
func languageOf(ctx context.Context) say.Language { return callerOf(ctx).language }
