package api

import (
	"encoding/json"
	"errors"
	"io"
	"strings"
	"sync"

	"github.com/getkin/kin-openapi/openapi3"

	"freshanvil/core/units"
)

// forReading is the contract by which documents are read that come by no request.
var forReading = sync.OnceValues(func() (*openapi3.T, error) {
	doc, err := openapi3.NewLoader().LoadFromData(contract)
	if err != nil {
		return nil, err
	}
	leaveToCore(doc)
	return doc, nil
})

// ReadAs reads a document that has the form of a schema of the contract, as PlanRequest. What does not fit is refused
// as a request would be: the error is a problem with the field, the value and what is allowed.
func ReadAs(schema string, in io.Reader, into any) error {
	doc, err := forReading()
	if err != nil {
		return err
	}
	body, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	var given any
	if err := json.Unmarshal(body, &given); err != nil {
		return &units.OutOfRange{Field: "request", Value: err.Error(), Allowed: "one JSON document"}
	}
	err = doc.Components.Schemas[schema].Value.VisitJSON(given)
	var bad *openapi3.SchemaError
	if errors.As(err, &bad) {
		return schemaProblem(strings.Join(bad.JSONPointer(), "."), bad)
	}
	if err != nil {
		return err
	}
	return json.Unmarshal(body, into)
}
