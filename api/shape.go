package api

import (
	"fmt"
	"strings"
	"sync"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/validation"

	"vereda/core/say"
)

// shapeWords are what is said of a request that is not of the shape its operation asks for, by the library's own words for it.
var shapeWords = map[string]say.Sentence{
	"validation failed":       "This was not taken.",
	"unknown query parameter": "There is no such parameter.",
	"expected at most one value, but received multiple values": "One value, not several.",
	"required path parameter is missing":                       "This is missing.",
	"required query parameter is missing":                      "This is missing.",
	"required header parameter is missing":                     "This is missing.",
	"request body is required":                                 "The request is empty.",
	"invalid integer":                                          "A whole number is needed.",
	"invalid float":                                            "A number is needed.",
	"invalid floating value":                                   "A number is needed.",
	"invalid boolean":                                          "True or false is needed.",
	validation.MsgUnexpectedProperty:                           "There is no such field.",
	validation.MsgExpectedRFC3339DateTime:                      "A date and a time are needed, such as 2026-03-09T18:30:00Z.",
	validation.MsgExpectedRFC3339Date:                          "A date is needed, such as 2026-03-09.",
	validation.MsgExpectedBoolean:                              "True or false is needed.",
	validation.MsgExpectedNumber:                               "A number is needed.",
	validation.MsgExpectedInteger:                              "A whole number is needed.",
	validation.MsgExpectedString:                               "Text is needed.",
	validation.MsgExpectedArray:                                "A list is needed.",
	validation.MsgExpectedObject:                               "An object with fields is needed.",
	validation.MsgExpectedArrayItemsUnique:                     "Something stands twice in the list.",
	validation.MsgExpectedOneOf:                                "Choose one of: %s.",
	validation.MsgExpectedMinimumNumber:                        "At least %v.",
	validation.MsgExpectedExclusiveMinimumNumber:               "More than %v.",
	validation.MsgExpectedMaximumNumber:                        "At most %v.",
	validation.MsgExpectedExclusiveMaximumNumber:               "Less than %v.",
	validation.MsgExpectedMinLength:                            "At least %d characters.",
	validation.MsgExpectedMaxLength:                            "At most %d characters.",
	validation.MsgExpectedMinItems:                             "At least %d in the list.",
	validation.MsgExpectedMaxItems:                             "At most %d in the list.",
	validation.MsgExpectedMatchPattern:                         "It must fit %s.",
	validation.MsgExpectedRequiredProperty:                     "%s is missing.",
}

// shapeSaid are the sentences that were filled in, by their English text: the library keeps texts. Their values are of the schemas, so they are few.
var shapeSaid sync.Map

func init() {
	huma.ErrorFormatter = func(format string, values ...any) string {
		said, ok := shapeOf(format, values)
		if !ok {
			return fmt.Sprintf(format, values...)
		}
		text := said.String()
		shapeSaid.Store(text, said)
		return text
	}
}

// shapeOf is what we say in place of a format of the library's.
func shapeOf(format string, values []any) (say.Sentence, bool) {
	switch {
	case format == validation.MsgExpectedMinLength && values[0] == 1:
		return "This is empty.", true
	case format == validation.MsgExpectedMinItems && values[0] == 1:
		return "The list is empty.", true
	case format == validation.MsgExpectedOneOf:
		choices, _ := values[0].(string)
		return say.F(shapeWords[format], say.Join(", ", say.Words(strings.Split(choices, ", "))...)), true
	}
	ours, ok := shapeWords[format]
	return say.F(ours, values...), ok
}

// ofShape is what the library says, in our words where we have them.
func ofShape(message string) say.Sentence {
	if said, ok := shapeSaid.Load(message); ok {
		return said.(say.Sentence)
	}
	if ours, ok := shapeWords[message]; ok {
		return ours
	}
	return say.Word(message)
}
