package web

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"easymargin/internal/stops"
)

// tags say what the parts of the API are of. An operation is shown under the first
// topic of its declaration; one that stands under none of these stops the start.
var tags = map[string]string{
	"clock":       "The demo's clock",
	"counts":      "What is on sale and waiting, in numbers, and the switch that halts all sending",
	"differences": "Where a marketplace shows something else than was sent",
	"feeds":       "Files, addresses and pages that suppliers' products come by, and what was made of them",
	"fields":      "What a listing can say, by category",
	"finds":       "Finding products of suppliers to list",
	"following":   "How prices and stock of a site follow their suppliers",
	"keeping":     "What is kept, for how long, and backups",
	"listings":    "Listings: price, stock, state, and the lines behind each number",
	"look-up":     "Looking one thing up by whatever is known of it",
	"mail":        "How mail is sent",
	"matches":     "Supplier's products beside the entries of a marketplace's catalogue",
	"orders":      "Orders, purchases, refunds, what was earned, and the books",
	"people":      "Who works here, what each may, tokens and the record of who did what",
	"pictures":    "Pictures of listings",
	"places":      "Marketplaces and how they are reached",
	"plan":        "What should change on marketplaces, waiting to be let go",
	"pool":        "The reseller's own product numbers",
	"prepare":     "What listings say, checked against what their category asks",
	"products":    "Products and who supplies them",
	"rules":       "Rules that set prices",
	"runs":        "Long work and how far it is, and the stream of events",
	"sendouts":    "Submissions: what was handed over, and what became of each line",
	"shadows":     "What a rule would have done, without doing it",
	"sheet":       "Listings of a category as a sheet",
	"sieves":      "Kept filters",
	"sites":       "Sites of marketplaces: terms, fees, tax, currency",
	"skus":        "How SKUs are made",
	"sources":     "Suppliers' sources: how they are read, when, and what they cost",
	"today":       "What waits for a person",
	"watches":     "Numbers that are watched, and what set them off",
	"weigh":       "Weighing what might be sold",
}

// describe is how the API's description begins: what holds for all operations.
func describe() huma.Config {
	cfg := huma.DefaultConfig("Easy Margin", "1.0.0")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath, cfg.CreateHooks = "/openapi", "", "", nil
	cfg.Servers = []*huma.Server{{URL: base}}
	cfg.Info.Description = "Everything the screens do. Amounts are whole minor units (ISO 4217) with their currency beside them; rates are percentages as text. " +
		"Errors are problem+json (RFC 9457). `docs/api.md` walks the whole way from a supplier's file to a confirmed listing."
	cfg.Info.Contact = &huma.Contact{Name: "Whoever runs this installation"}
	cfg.Info.License = &huma.License{Name: "See the file LICENSE", Identifier: "LicenseRef-Easy-Margin"}
	cfg.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	cfg.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session":  {Type: "apiKey", In: "cookie", Name: cookieName, Description: "The cookie that /log-in gives. While one person works alone at 127.0.0.1 nothing is asked for."},
		"token":    {Type: "http", Scheme: "bearer", Description: "A token made under People, RFC 6750"},
		"password": {Type: "http", Scheme: "basic", Description: "Name and password, where no code is asked for beside it, RFC 7617"},
	}
	return cfg
}

// schemaName names a schema by its type, or by its operation where the type has no
// name: add-categories takes an AddCategoriesRequest.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	out := strings.Builder{}
	for _, part := range strings.Split(name, "-") {
		out.WriteString(strings.ToUpper(part[:1]) + part[1:])
	}
	return out.String()
}

// tagged describes the tags that operations stand under. One that nothing is said of
// is a mistake of ours, and stops the start.
func tagged(api *huma.OpenAPI, operations map[string]*stops.Operation) {
	used := map[string]bool{}
	for _, o := range operations {
		used[o.Topics[0]] = true
	}
	for _, name := range slices.Sorted(maps.Keys(used)) {
		if tags[name] == "" {
			panic(fmt.Sprintf("nothing says what the topic %q is of", name))
		}
		api.Tags = append(api.Tags, &huma.Tag{Name: name, Description: tags[name]})
	}
}
