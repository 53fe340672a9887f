package stops

import (
	"path/filepath"
)

// medias are the media types of the files that are handed out.
var medias = map[string]string{
	".csv":  "text/csv",
	".tsv":  "text/tab-separated-values",
	".json": "application/json",
	".xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
	".xlsm": "application/vnd.ms-excel.sheet.macroEnabled.12",
}

// Media is what a file is by its name: CSV where its ending isn't known.
func Media(name string) string {
	if m, ok := medias[filepath.Ext(name)]; ok {
		return m
	}
	return medias[".csv"]
}
