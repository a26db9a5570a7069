package reason

// Code names a refusal for whoever must tell one from another without reading
// its sentences. A code never changes its meaning.
type Code string

// Refusal is the error that says why something is not offered: which field
// decided, what it held, what is allowed in its place, and the judgement with
// its reasons. It is the only error of that kind in core; a value that cannot be
// at all is a *units.OutOfRange.
type Refusal struct {
	Code Code
	// Field is the name, in the contract or among the facts, of what decided.
	Field string
	// Value is what it held, and Allowed what would be accepted, both in words.
	Value, Allowed string
	Finding        Finding
}

func (r *Refusal) Error() string { return r.Finding.Title }

// Refuse makes a refusal; why and next are added by Why and Instead.
func Refuse(code Code, title string) *Refusal {
	return &Refusal{Code: code, Finding: Finding{Verdict: Refused, Title: title, Because: []Reason{}}}
}

// Of names the field that decided, what it holds and what is allowed.
func (r *Refusal) Of(field, value, allowed string) *Refusal {
	r.Field, r.Value, r.Allowed = field, value, allowed
	return r
}

// Why adds a reason.
func (r *Refusal) Why(source Source, text string) *Refusal {
	r.Finding.Because = append(r.Finding.Because, Reason{Text: text, Source: source})
	return r
}

// Instead adds what to do in its place.
func (r *Refusal) Instead(text ...string) *Refusal {
	r.Finding.Next = append(r.Finding.Next, text...)
	return r
}
