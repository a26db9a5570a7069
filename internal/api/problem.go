package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/labstack/echo/v5"

	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/reason"
	"freshanvil/core/units"
	"freshanvil/internal/app"
)

// problem is a Problem as an error.
type problem struct {
	Problem
	retry int // after so many seconds the same may be asked again; 0 says nothing of it
}

func (p *problem) Error() string { return p.Title }

// newProblem makes a problem; its code names the kind and never changes its meaning.
func newProblem(status int, code, title string) *problem {
	return &problem{Problem: Problem{Type: "about:blank", Title: title, Status: status, Code: code}}
}

// at names the field, the value received and what is allowed.
func (p *problem) at(field, value, allowed string) *problem {
	p.Field, p.Value, p.Allowed = &field, &value, &allowed
	return p
}

// meaning offers what was probably meant by the value.
func (p *problem) meaning(list []units.Meant) *problem {
	if len(list) == 0 {
		return p
	}
	out := make([]Meant, len(list))
	for i, m := range list {
		out[i] = Meant{Says: m.Says, Value: m.Value}
	}
	p.Meant = &out
	return p
}

// told says it as a sentence, by what people call the field; without a name, by what the contract calls it.
func (p *problem) told(name string) *problem {
	if name == "" {
		name = nameOf(*p.Field)
	}
	name, _, _ = strings.Cut(name, " (") // a remark behind a fact is not its name
	says := sentence(name, *p.Value, *p.Allowed)
	p.Says = &says
	return p
}

func (p *problem) say(detail string) *problem {
	p.Detail = &detail
	return p
}

// again says after how many seconds the same may be asked again.
func (p *problem) again(seconds int) *problem {
	p.retry = seconds
	return p
}

// handleError turns any error into a problem document.
func handleError(log *slog.Logger) echo.HTTPErrorHandler {
	return func(c *echo.Context, err error) {
		if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
			return
		}
		if errors.Is(err, context.Canceled) && c.Request().Context().Err() != nil {
			log.Debug("the client left", "path", c.Request().URL.Path)
			return
		}
		p := problemOf(err)
		if p.Status >= http.StatusInternalServerError {
			log.Error("request failed", "method", c.Request().Method, "path", c.Request().URL.Path, "error", err)
		}
		if p.retry > 0 {
			c.Response().Header().Set("Retry-After", strconv.Itoa(p.retry))
		}
		body, _ := json.Marshal(p.Problem)
		if err := c.Blob(p.Status, "application/problem+json", body); err != nil {
			log.Warn("problem not sent", "error", err)
		}
	}
}

// ProblemOf is an error as a problem document.
func ProblemOf(err error) Problem { return problemOf(err).Problem }

func problemOf(err error) *problem {
	var (
		own     *problem
		not     *app.Conflict
		gone    *app.Missing
		bad     *units.OutOfRange
		refused *reason.Refusal
		request *openapi3filter.RequestError
		coder   echo.HTTPStatusCoder
	)
	switch {
	case errors.As(err, &own):
		return own
	case errors.As(err, &not):
		return conflictProblem(not)
	case deniedOf(err) != nil:
		return deniedProblem(deniedOf(err))
	case errors.As(err, &gone):
		return newProblem(http.StatusNotFound, "not_found", gone.Title).at(gone.Field, gone.Value, gone.Allowed)
	case errors.As(err, &bad):
		return newProblem(http.StatusUnprocessableEntity, "out_of_range", bad.Field+" is not allowed").
			at(bad.Field, bad.Value, bad.Allowed).told(bad.Name).meaning(bad.Meant)
	case errors.As(err, &refused):
		return refusalProblem(refused)
	case errors.Is(err, app.ErrNotFound):
		return newProblem(http.StatusNotFound, "not_found", "Not there").say(err.Error())
	case errors.Is(err, app.ErrConflict):
		return newProblem(http.StatusConflict, "conflict", "Not possible now").say(err.Error())
	case app.Busy(err):
		return newProblem(http.StatusServiceUnavailable, "busy", "The database is busy").
			say("Nothing was changed. The same again in a moment.").again(1)
	case diskProblem(err) != nil:
		return diskProblem(err)
	case errors.As(err, &request):
		return requestProblem(request)
	case errors.As(err, &coder):
		return newProblem(coder.StatusCode(), "http", http.StatusText(coder.StatusCode()))
	}
	return newProblem(http.StatusInternalServerError, "broken", "Something broke here").
		say("It is in the server's log. Whether it was kept shows when you look again.")
}

// diskProblem is what the disk under the database will not do; nil for any other error.
func diskProblem(err error) *problem {
	switch app.DiskOf(err) {
	case app.DiskFull:
		return newProblem(http.StatusInsufficientStorage, "disk_full", "The disk is full").
			say("Nothing was changed. Make room on the disk of the server; what is kept is whole.")
	case app.DiskReadOnly:
		return newProblem(http.StatusServiceUnavailable, "read_only", "The database cannot be written").
			say("Nothing was changed. Its file, its folder or its disk is read-only for the server.")
	case app.DiskDamaged:
		return newProblem(http.StatusServiceUnavailable, "damaged", "The database is damaged").
			say("Nothing was changed. Stop the server, and put the newest copy back with freshanvil restore.")
	case app.DiskFails:
		return newProblem(http.StatusServiceUnavailable, "disk", "The disk does not answer as it should").
			say("Whether it was kept shows when you look again. See to the disk of the server.")
	}
	return nil
}

// conflictProblem is what is not possible now.
func conflictProblem(c *app.Conflict) *problem {
	p := newProblem(http.StatusConflict, c.Code, c.Title)
	if c.Field != "" {
		p = p.at(c.Field, c.Value, c.Allowed)
	}
	p.Finding = c.Finding
	if c.Detail != "" {
		return p.say(c.Detail)
	}
	return p
}

// refusedNow are the refusals that the state of the machine makes, not what was asked for.
var refusedNow = []reason.Code{job.ChemicalInside, job.HeadBlocked, job.Stopping, descale.NotCleared,
	app.LaidUp}

// refusalProblem is a refusal with its own field, value and what is allowed.
func refusalProblem(r *reason.Refusal) *problem {
	status := http.StatusUnprocessableEntity
	if slices.Contains(refusedNow, r.Code) {
		status = http.StatusConflict
	}
	p := newProblem(status, string(r.Code), r.Finding.Title).at(r.Field, r.Value, r.Allowed)
	p.Finding = &r.Finding
	return p
}

// requestProblem says what of a request is against the contract.
func requestProblem(err *openapi3filter.RequestError) *problem {
	var schema *openapi3.SchemaError
	var parse *openapi3filter.ParseError
	p := newProblem(http.StatusUnprocessableEntity, "contract", "The request is not allowed")
	switch {
	case errors.As(err, &schema):
		field := strings.Join(schema.JSONPointer(), ".")
		if err.Parameter != nil {
			field = err.Parameter.Name
		}
		return schemaProblem(field, schema)
	case err.Parameter != nil:
		return p.at(err.Parameter.Name, "unreadable", "a value as the contract says").told("")
	case errors.As(err, &parse):
		p = newProblem(http.StatusBadRequest, "not_json", "The body is not JSON")
		if parse.Kind == openapi3filter.KindUnsupportedFormat {
			p = newProblem(http.StatusUnsupportedMediaType, "not_json", "The body must be application/json")
		}
		return p
	}
	return newProblem(http.StatusBadRequest, "not_json", "The request has no body that can be read").say(err.Reason)
}

// schemaProblem says what of a field is against its schema.
func schemaProblem(field string, schema *openapi3.SchemaError) *problem {
	value, allowed := shorten(schema.Value), allowedBy(schema)
	if schema.SchemaField == "required" {
		value = "nothing"
	}
	name, extra := unknownField(schema)
	if name != "" {
		field, value = strings.TrimPrefix(field+"."+name, "."), shorten(extra)
	}
	p := newProblem(http.StatusUnprocessableEntity, "contract", field+" is not allowed").at(field, value, allowed)
	if name != "" {
		says := "There is no field " + name + " here."
		p.Says = &says
		return p
	}
	return p.told("").meaning(meantBy(field, schema))
}

// unknownField is the first field of an object that the contract does not have.
func unknownField(e *openapi3.SchemaError) (string, any) {
	object, ok := e.Value.(map[string]any)
	if !ok || e.SchemaField == "required" {
		return "", nil
	}
	for _, name := range slices.Sorted(maps.Keys(object)) {
		if _, known := e.Schema.Properties[name]; !known {
			return name, object[name]
		}
	}
	return "", nil
}

func shorten(v any) string {
	text, ok := v.(string)
	if !ok {
		raw, _ := json.Marshal(v)
		text = string(raw)
	}
	if r := []rune(text); len(r) > 80 {
		return string(r[:80]) + "…"
	}
	return text
}

// leaveToCore takes the rules between the fields of an object out of a contract by which requests are validated: core
// holds them too, and says in better words which field is wrong and what it may be.
func leaveToCore(doc *openapi3.T) {
	for _, s := range doc.Components.Schemas {
		s.Value.AllOf = nil
	}
}

func allowedBy(e *openapi3.SchemaError) string {
	s := e.Schema
	if said, ok := s.Extensions["x-allowed"].(string); ok {
		return said
	}
	switch e.SchemaField {
	case "required":
		return "it must be given"
	case "properties", "additionalProperties":
		return "only the fields of the contract"
	case "enum":
		list := make([]string, len(s.Enum))
		for i, v := range s.Enum {
			list[i] = fmt.Sprint(v)
		}
		return "one of " + strings.Join(list, ", ")
	case "pattern":
		if strings.HasPrefix(s.Pattern, "^[0-9a-f]{8}-") {
			return "a UUID in lower case"
		}
		return "text of the form " + s.Pattern
	case "minItems":
		return fmt.Sprintf("%d or more", s.MinItems)
	case "maxItems":
		return fmt.Sprintf("%d at most", *s.MaxItems)
	case "minLength", "maxLength":
		most := "any number of"
		if s.MaxLength != nil {
			most = strconv.FormatUint(*s.MaxLength, 10)
		}
		return fmt.Sprintf("%d to %s characters", s.MinLength, most)
	}
	if s.Min != nil && s.Max != nil {
		kind := "a number"
		if s.Type.Is("integer") {
			kind = "a whole number"
		}
		from, to := "from", "to"
		if s.ExclusiveMin.IsSet() {
			from = "above"
		}
		if s.ExclusiveMax.IsSet() {
			to = "to below"
		}
		plain := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
		return fmt.Sprintf("%s %s %s %s %s", kind, from, plain(*s.Min), to, plain(*s.Max))
	}
	if s.Format == "date-time" {
		return "a time such as 2026-03-10T07:00:00Z"
	}
	if s.Type != nil && len(s.Type.Slice()) > 0 {
		return "a value of type " + strings.Join(s.Type.Slice(), " or ")
	}
	return "a value as the contract says"
}
