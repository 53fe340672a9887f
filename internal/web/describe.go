package web

import "github.com/danielgtaylor/huma/v2"

// describe is how the API's description begins: what holds for all operations.
func describe() huma.Config {
	cfg := huma.DefaultConfig("Easy Margin", "1.0.0")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath, cfg.CreateHooks = "/openapi", "", "", nil
	cfg.Servers = []*huma.Server{{URL: base}}
	cfg.Info.Description = "Everything the screens do. Amounts are whole minor units (ISO 4217) with their currency beside them; rates are percentages as text."
	cfg.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session":  {Type: "apiKey", In: "cookie", Name: cookieName, Description: "The cookie that /log-in gives. While one person works alone at 127.0.0.1 nothing is asked for."},
		"token":    {Type: "http", Scheme: "bearer", Description: "A token made under People, RFC 6750"},
		"password": {Type: "http", Scheme: "basic", Description: "Name and password, where no code is asked for beside it, RFC 7617"},
	}
	return cfg
}
