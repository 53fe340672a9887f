package feed

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Columns are known by the names that suppliers of ten countries give them, whatever
// stands around the words.
func TestColumnsInTheLanguagesOfSuppliers(t *testing.T) {
	for header, want := range map[string]string{
		"Art.-Nr.;EAN;Bezeichnung;EK netto (€);UVP;Bestand;VE;Gewicht kg;Farbe;Zolltarifnr.":        "ref identifier title cost list_price stock units_per_item weight/kg colour commodity_code",
		"Réf.;Désignation;Prix d'achat HT;Qté dispo;Colisage;Poids (g);Pays d’origine":              "ref title cost stock units_per_item weight/g origin",
		"Código;Descripción artículo;Precio coste;Existencias;Uds. caja;Peso (kg);Código de barras": "ref title cost stock units_per_item weight/kg identifier",
		"Cod. art.;Descrizione articolo;Prezzo netto EUR;Giacenza;Pz. conf.;Marca":                  "ref title cost stock units_per_item brand",
		"Artikelnummer;Omschrijving;Inkoopprijs excl. BTW;Voorraad;Verpakkingseenheid;Merk":         "ref title cost stock units_per_item brand",
		"Indeks;Nazwa;Cena netto PLN;Stan magazynowy;Ilość w opakowaniu;Kod kreskowy":               "ref title cost stock units_per_item identifier",
		"Artikelnr;Benämning;Inköpspris SEK;Lagersaldo;Antal per förpackning;Varumärke":             "ref title cost stock units_per_item brand",
		"Varenr.;Varetekst;Indkøbspris;Lagerbeholdning;Antal pr. kolli;Mærke":                       "ref title cost stock units_per_item brand",
		"Varenummer;Varenavn;Innkjøpspris eks. mva;På lager;Antall pr. pakke;Produsent":             "ref title cost stock units_per_item brand",
		"Referência;Designação;Preço de custo;Quantidade disponível;Un. por caixa;Marca":            "ref title cost stock units_per_item brand",
		"Höhe in cm;Breite (mm);Länge [m];Maße;Bild 1;Bild 2;Verfügbar ab;Verfügbar":                "height/cm width/mm length/m box pictures pictures available_from stock",
		"sku;title;price;Code;Photo;Finish":                                                         "ref title cost - - -",
		"Réf;Libellé;Photo;Code":                                                                    "ref title pictures -",
		"Preis;Verkaufspreis;Menge;Mindestmenge":                                                    "cost list_price stock least_order",
	} {
		columns, _ := nameColumns(strings.Split(header, ";"), &Settings{})
		var got []string
		for _, c := range columns {
			field := c.Field
			if field == "" {
				field = "-"
			}
			if c.unit != "" {
				field += "/" + c.unit
			}
			got = append(got, field)
		}
		assert.Equal(t, want, strings.Join(got, " "), header)
	}
	columns, _ := nameColumns([]string{"Bezeichnung", "Preis"}, &Settings{Words: map[string]string{"preis": ""}})
	assert.Equal(t, "", columns[1].Field, "a person said that it is none")
}

// Every name in the files is of a field that there is, and of no other in English.
func TestTheNamesAreOfFields(t *testing.T) {
	for name, field := range tongueOf {
		assert.True(t, IsField(field), "%s: %s", name, field)
		if f := fieldOf[name]; f != "" {
			assert.Equal(t, f, field, name)
		}
	}
}
