package form_test

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"easymargin/core/form"
)

func read(t *testing.T, text string) (*form.Reader, *form.Fields) {
	f, err := form.Object("", []byte(text))
	require.NoError(t, err)
	return &form.Reader{}, f
}

func TestEachKindOfFieldIsRead(t *testing.T) {
	r, f := read(t, `{"name":"A","on":true,"n":3,"price":"12.40","loss":"-0.30","share":"12.5%","less":"-2%","one":{"x":1},"many":[{},{}]}`)
	assert.Equal(t, "A", r.Text(f, "name", true))
	assert.True(t, r.Flag(f, "on"))
	assert.Equal(t, int64(3), r.Count(f, "n", 1))
	price, there := r.Amount(f, "price", "GBP", true)
	assert.Equal(t, []any{int64(1240), true}, []any{price, there})
	assert.Equal(t, int64(-30), r.Signed(f, "loss", "GBP", true))
	share, there := r.Rate(f, "share", true)
	assert.Equal(t, []any{int64(125_000), true}, []any{int64(share), there})
	assert.Equal(t, int64(-20_000), int64(r.SignedRate(f, "less")))
	assert.Equal(t, "one", r.Child(f, "one", true).Path)
	list := r.List(f, "many")
	require.Len(t, list, 2)
	assert.Equal(t, "many[1].x", list[1].Name("x"))
	r.Done(f)
	assert.NoError(t, r.Err)
}

func TestWhatIsLeftOutHasAnAnswer(t *testing.T) {
	r, f := read(t, `{}`)
	assert.Empty(t, r.Text(f, "name", false))
	assert.False(t, r.Flag(f, "on"))
	assert.Equal(t, int64(1), r.Count(f, "n", 1))
	_, there := r.Amount(f, "price", "GBP", false)
	assert.False(t, there)
	_, there = r.Rate(f, "share", false)
	assert.False(t, there)
	assert.Nil(t, r.Child(f, "one", false))
	assert.Nil(t, r.List(f, "many"))
	r.Done(f)
	assert.NoError(t, r.Err)
}

func TestWhatCantBeReadNamesItsField(t *testing.T) {
	for text, ask := range map[string]func(r *form.Reader, f *form.Fields){
		`{"x":7}`:         func(r *form.Reader, f *form.Fields) { r.Text(f, "x", true) },
		`{"x":""}`:        func(r *form.Reader, f *form.Fields) { r.Text(f, "x", true) },
		`{"x":null}`:      func(r *form.Reader, f *form.Fields) { r.Count(f, "x", 0) },
		`{"x":1.0}`:       func(r *form.Reader, f *form.Fields) { r.Count(f, "x", 0) },
		`{"x":-1}`:        func(r *form.Reader, f *form.Fields) { r.Count(f, "x", 0) },
		`{"x":1}`:         func(r *form.Reader, f *form.Fields) { r.Flag(f, "x") },
		`{"x":"-0.01"}`:   func(r *form.Reader, f *form.Fields) { r.Amount(f, "x", "GBP", true) },
		`{"x":"1.005"}`:   func(r *form.Reader, f *form.Fields) { r.Amount(f, "x", "GBP", true) },
		`{"x":"2"}`:       func(r *form.Reader, f *form.Fields) { r.Rate(f, "x", true) },
		`{"x":"-2%"}`:     func(r *form.Reader, f *form.Fields) { r.Rate(f, "x", true) },
		`{"x":"some"}`:    func(r *form.Reader, f *form.Fields) { r.SignedRate(f, "x") },
		`{"x":[]}`:        func(r *form.Reader, f *form.Fields) { r.Child(f, "x", true) },
		`{"x":{}}`:        func(r *form.Reader, f *form.Fields) { r.List(f, "x") },
		`{"x":[1]}`:       func(r *form.Reader, f *form.Fields) { r.List(f, "x") },
		`{"x":"other"}`:   func(r *form.Reader, f *form.Fields) { r.Word(f, "x", "this", "that") },
		`{"x":"unasked"}`: func(r *form.Reader, f *form.Fields) { r.Done(f) },
		`{}`:              func(r *form.Reader, f *form.Fields) { r.Needed(f, "x") },
	} {
		r, f := read(t, text)
		ask(r, f)
		require.Error(t, r.Err, text)
		assert.Equal(t, "x", r.Err.Error()[:1], text)
	}
	for _, text := range []string{"", "[]", "nonsense", `{"x":`} {
		_, err := form.Object("", []byte(text))
		assert.ErrorContains(t, err, "case: ", text)
	}
}

func TestTheFirstErrorStays(t *testing.T) {
	r := &form.Reader{}
	r.Fail("a", errors.New("first"))
	r.Fail("b", errors.New("second"))
	assert.EqualError(t, r.Err, "a: first")
}

func TestMoments(t *testing.T) {
	r := &form.Reader{}
	assert.Equal(t, int64(90*form.Second), r.Moment("at", "1970-01-01T00:01:30Z"))
	assert.Equal(t, int64(1), r.Moment("at", "1970-01-01T00:00:00.000001Z"))
	require.NoError(t, r.Err)
	for _, text := range []string{"", "2026-02-30T09:15:00Z", "2026-03-03T09:15:00+01:00", "2026-03-03", "now"} {
		r := &form.Reader{}
		r.Moment("at", text)
		assert.ErrorContains(t, r.Err, "at: ", text)
	}
}

func TestAnswersAreOneLine(t *testing.T) {
	assert.Equal(t, `{"a":"<b> & c"}`, string(form.Line(map[string]string{"a": "<b> & c"})))
	var said map[string]any
	require.NoError(t, json.Unmarshal(form.Refusal("", errors.New("no")), &said))
	assert.Equal(t, map[string]any{"id": nil, "error": "no"}, said)
	assert.Equal(t, `{"id":"x","error":"no"}`, string(form.Refusal("x", errors.New("no"))))
}

type whole struct {
	Name  string            `json:"name"`
	Sides []int64           `json:"sides"`
	Part  *whole            `json:"part"`
	Free  map[string]string `json:"free"`
	Raw   json.RawMessage   `json:"raw"`
}

// Strictly read is the same whichever way it is read.
func TestIntoReadsStrictly(t *testing.T) {
	for text, wrong := range map[string]string{
		`{"name":"a","sides":[1,2],"part":{"name":"b"},"free":{"Name":"x"},"raw":{"any":[1]}}`: "",
		`{"name":null,"part":null,"sides":[]}`:                                                 "",
		` {"name":"a"} `:                                                                       "",
		`{"nam\u0065":"a"}`:                                                                    "",
		`{"Name":"a"}`:                                                                         "x.Name: is not known here",
		`{"part":{"NAME":"a"}}`:                                                                "x.part.NAME: is not known here",
		`{"name":"a","more":1}`:                                                                "x.more: is not known here",
		`{"sides":[1,null]}`:                                                                   "x.sides[1]: is null",
		`{"sides":[1.5]}`:                                                                      "x.sides[0]: must be a whole number",
		`{"sides":{}}`:                                                                         "x.sides: must be a list",
		`{"name":7}`:                                                                           "x.name: must be a text in quotes",
		`{"free":{"a":1}}`:                                                                     "x.free.a: must be a text in quotes",
		`{"free":["a"]}`:                                                                       "x.free: must be a JSON object",
		`{"name":"a"} {}`:                                                                      "x: ",
		`{"name":"a`:                                                                           "x: ",
		`"name"`:                                                                               "x: must be a JSON object",
	} {
		var got whole
		err := form.Into("x", []byte(text), &got)
		if wrong == "" {
			assert.NoError(t, err, text)
		} else {
			assert.ErrorContains(t, err, wrong, text)
		}
	}
	var got whole
	require.NoError(t, form.Into("", []byte(`{"nam\u0065":"a","free":{"Name":"x"}}`), &got))
	assert.Equal(t, whole{Name: "a", Free: map[string]string{"Name": "x"}}, got)
}
