module easymargin

go 1.26.0

require (
	github.com/stretchr/testify v1.12.1
	pgregory.net/rapid v1.3.0
)

require (
	github.com/aymerick/douceur v0.2.0 // indirect
	github.com/go-gormigrate/gormigrate/v2 v2.1.7 // indirect
	github.com/gorilla/css v1.0.1 // indirect
	github.com/jinzhu/inflection v1.0.0 // indirect
	github.com/jinzhu/now v1.1.5 // indirect
	github.com/mattn/go-sqlite3 v1.14.22 // indirect
	github.com/microcosm-cc/bluemonday v1.0.27 // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
	golang.org/x/net v0.26.0 // indirect
	golang.org/x/text v0.22.0 // indirect
	gorm.io/driver/sqlite v1.6.0 // indirect
	gorm.io/gorm v1.31.2 // indirect
)
