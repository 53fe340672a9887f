package stops

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"log/slog"
	"mime"
	"net/http"
	"regexp"
	"slices"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"easymargin/internal/actor"
	"easymargin/internal/fault"
)

// Effect is what an operation does to the data.
type Effect string

// The effects.
const (
	Reads  Effect = "reads"
	Asks   Effect = "asks" // a question that is posted because it is long; nothing is kept
	Writes Effect = "writes"
)

// Operation declares one operation of the API: all that the edge, the API's description
// and the front end need to know of it. Read, Ask, Post, Put and Delete begin one.
type Operation struct {
	Method  string
	Path    string // below /api/v1; {id} is a whole number, {format} is csv or xlsx
	ID      string // verb and noun; the front end's function is called by it
	Summary string // what it does, for people
	Right   actor.Rights
	Effect  Effect
	// Topics are what a reading is of, and what screens read again after a write.
	Topics []string

	maxBody int64
	media   string // of the answer, where it is a file
	status  int
	upload  bool
}

// Read declares a reading of a topic; whoever may look may do it.
func Read(path, id, topic, summary string) Operation {
	return Operation{Method: http.MethodGet, Path: path, ID: id, Summary: summary, Right: actor.Look, Effect: Reads, Topics: []string{topic}}
}

// Ask declares a question whose particulars are posted. Nothing is kept of it.
func Ask(path, id, topic, summary string) Operation {
	return Operation{Method: http.MethodPost, Path: path, ID: id, Summary: summary, Right: actor.Look, Effect: Asks, Topics: []string{topic}}
}

// Post declares a write that makes something or does something.
func Post(path, id string, right actor.Rights, summary string, topics ...string) Operation {
	return Operation{Method: http.MethodPost, Path: path, ID: id, Summary: summary, Right: right, Effect: Writes, Topics: topics}
}

// Put declares a write that sets something, however often it is sent.
func Put(path, id string, right actor.Rights, summary string, topics ...string) Operation {
	return Operation{Method: http.MethodPut, Path: path, ID: id, Summary: summary, Right: right, Effect: Writes, Topics: topics}
}

// Delete declares a write that takes something away.
func Delete(path, id string, right actor.Rights, summary string, topics ...string) Operation {
	return Operation{Method: http.MethodDelete, Path: path, ID: id, Summary: summary, Right: right, Effect: Writes, Topics: topics}
}

// For is the operation with another right.
func (o Operation) For(right actor.Rights) Operation {
	o.Right = right
	return o
}

// Most is the operation with a body of at most so many bytes.
func (o Operation) Most(bytes int64) Operation {
	o.maxBody = bytes
	return o
}

// File is the operation with an answer that is a file of a media type.
func (o Operation) File(media string) Operation {
	o.media = media
	return o
}

// Status is the operation with another status than 200 where it went well.
func (o Operation) Status(code int) Operation {
	o.status = code
	return o
}

// Uploaded is the operation with a body that is a file.
func (o Operation) Uploaded() Operation {
	o.upload = true
	return o
}

// Keyed tells whether a write that comes again under its Idempotency-Key gets the
// answer it had. What carries a password or a token is kept nowhere.
func (o *Operation) Keyed() bool {
	return o.Effect == Writes && o.Right&(actor.Account|actor.People) == 0
}

// declared is where a huma.Operation carries the declaration it was made from.
const declared = "declared"

// Declared is the declaration that an operation of the description was made from.
func Declared(o *huma.Operation) (*Operation, bool) {
	d, ok := o.Metadata[declared].(*Operation)
	return d, ok
}

// maxBody is the most that is read of a request, in bytes: a little over the
// most that any use case takes, so that it is theirs to say what is too much.
const maxBody = 5 << 20

// schemes are the ways of showing who asks.
var schemes = []string{"session", "token", "password"}

// described is an operation as huma has it.
func (o Operation) described() huma.Operation {
	out := huma.Operation{
		OperationID: o.ID, Method: o.Method, Path: o.Path, Summary: o.Summary, Description: o.inWords(), Tags: o.Topics[:1], DefaultStatus: cmp.Or(o.status, http.StatusOK),
		MaxBodyBytes: cmp.Or(o.maxBody, maxBody), Metadata: map[string]any{declared: &o},
		Extensions: map[string]any{"x-effect": o.Effect, "x-topics": o.Topics, "x-right": o.Right.String()},
		Errors:     []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusUnprocessableEntity},
	}
	for _, scheme := range schemes {
		if scheme != "token" || o.Right&actor.Account == 0 {
			out.Security = append(out.Security, map[string][]string{scheme: {}})
		}
	}
	if slices.ContainsFunc(pathParams(o.Path), func(name string) bool { return name != "format" }) {
		out.Errors = append(out.Errors, http.StatusNotFound)
	}
	if o.upload {
		out.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{
			"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}},
		}}
	}
	if o.Effect == Writes {
		out.Errors = append(out.Errors, http.StatusConflict, http.StatusInsufficientStorage)
	}
	if o.Keyed() {
		out.Parameters = append(out.Parameters, &huma.Param{Name: "Idempotency-Key", In: "header", Schema: &huma.Schema{Type: "string", MaxLength: new(200)},
			Description: "The same key from the same person gets the same answer, and nothing is done twice"})
	}
	return out
}

// inWords says what holds of an operation, for its description: what it does to the
// data, which right it takes, and whether it may come twice.
func (o *Operation) inWords() string {
	out := map[Effect]string{
		Reads:  "Reads; nothing is changed.",
		Asks:   "Only asks: its particulars are posted because they are long, and nothing is kept of them.",
		Writes: "Writes.",
	}[o.Effect]
	out += fmt.Sprintf(" Needs the right *%s*.", o.Right)
	if o.Keyed() {
		out += " Sent again under the same Idempotency-Key it does nothing twice and gives the answer it gave."
	}
	return out
}

var inBraces = regexp.MustCompile(`\{(\w+)\}`)

func pathParams(path string) []string {
	var out []string
	for _, m := range inBraces.FindAllStringSubmatch(path, -1) {
		out = append(out, m[1])
	}
	return out
}

// Op registers an operation; its errors become problem+json here.
func Op[I, O any](api huma.API, o Operation, do func(ctx context.Context, in *I) (O, error)) {
	huma.Register(api, o.described(), func(ctx context.Context, in *I) (*Body[O], error) {
		out, err := do(ctx, in)
		if err != nil {
			return nil, ProblemOf(err)
		}
		return &Body[O]{out}, nil
	})
}

// Edited is something that several people may have open: its version tells
// whether one of them has changed it since.
type Edited interface{ Edition() int64 }

// OpEdited registers the reading of something that people edit: the answer
// carries its version as ETag, for the If-Match of who writes it.
func OpEdited[I any, O Edited](api huma.API, o Operation, do func(ctx context.Context, in *I) (O, error)) {
	type answer struct {
		ETag string `header:"ETag" doc:"For If-Match"`
		Body O
	}
	huma.Register(api, o.described(), func(ctx context.Context, in *I) (*answer, error) {
		out, err := do(ctx, in)
		if err != nil {
			return nil, ProblemOf(err)
		}
		return &answer{strconv.Quote(strconv.FormatInt(out.Edition(), 10)), out}, nil
	})
}

// Upload registers an operation on a site whose body is a file of at most so many
// bytes; its name comes as a query.
func Upload[O any](api huma.API, o Operation, most int64, do func(ctx context.Context, siteID int64, name string, raw []byte) (O, error)) {
	type asked struct {
		ByID
		Name    string `query:"name" maxLength:"300" doc:"What the file is called"`
		RawBody []byte `contentType:"application/octet-stream"`
	}
	Op(api, o.Most(most+1<<20), func(ctx context.Context, in *asked) (O, error) {
		return do(ctx, in.ID, cmp.Or(in.Name, "the file"), in.RawBody)
	})
}

// Streamed is an input whose body is read as it comes, so that any size streams to disk.
type Streamed struct {
	r *http.Request
	w http.ResponseWriter
}

// Resolve implements huma.Resolver.
func (s *Streamed) Resolve(ctx huma.Context) []error {
	s.r, s.w = humachi.Unwrap(ctx)
	return nil
}

// Receive gives the body to whoever keeps it. More than most bytes of it are refused
// where it says so beforehand; where nothing more of it comes for a while, that is said
// by its name.
func (s *Streamed) Receive(name string, most int64, tooBig func(int64) error, stall time.Duration, keep func(io.Reader) error) error {
	if s.r.ContentLength > most {
		return fault.New(fault.TooLarge, "%v", tooBig(s.r.ContentLength))
	}
	return receive(s.w, s.r, name, stall, keep)
}

// Format is an input that says which kind of file is wanted.
type Format struct {
	Format string `path:"format" enum:"csv,xlsx"`
}

// File is an answer that is a file: Content as it is, or else what Write writes.
type File struct {
	Name    string // under which it is saved; "": it is shown where it is
	Type    string // its media type; "": by its name
	Content []byte
	Write   func(w io.Writer) error
	Cache   time.Duration // how long a browser may keep it
}

// Download registers an operation that answers with a file.
func Download[I any](api huma.API, o Operation, do func(ctx context.Context, in *I) (File, error)) {
	op := o.described()
	op.Responses = map[string]*huma.Response{"200": {Description: "The file", Content: map[string]*huma.MediaType{
		cmp.Or(o.media, "*/*"): {Schema: &huma.Schema{Type: "string", Format: "binary"}},
	}}}
	huma.Register(api, op, func(ctx context.Context, in *I) (*huma.StreamResponse, error) {
		f, err := do(ctx, in)
		if err != nil {
			return nil, ProblemOf(err)
		}
		return &huma.StreamResponse{Body: f.hand}, nil
	})
}

// hand writes a file as an answer.
func (f *File) hand(ctx huma.Context) {
	ctx.SetHeader("Content-Type", cmp.Or(f.Type, Media(f.Name)))
	if f.Name != "" {
		ctx.SetHeader("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}))
	}
	if f.Cache > 0 {
		ctx.SetHeader("Cache-Control", fmt.Sprintf("private, max-age=%d, immutable", int(f.Cache.Seconds())))
	}
	write := f.Write
	if write == nil {
		write = func(w io.Writer) error {
			_, err := w.Write(f.Content)
			return err
		}
	}
	if err := write(ctx.BodyWriter()); err != nil {
		slog.Error("handing a file out", "name", f.Name, "error", err)
	}
}

// Raw registers an operation that writes its answer itself, such as a stream of events.
func Raw(api huma.API, o Operation, handle http.HandlerFunc) {
	op := o.described()
	op.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{o.media: {Schema: &huma.Schema{Type: "string"}}}}}
	huma.Register(api, op, func(context.Context, *None) (*huma.StreamResponse, error) {
		return &huma.StreamResponse{Body: func(ctx huma.Context) {
			r, w := humachi.Unwrap(ctx)
			handle(w, r)
		}}, nil
	})
}
