package pairs

// good is a kind of thing with what varies about it. Words are in English,
// German, French, Italian and Spanish, in this order.
type good struct {
	noun      [5]string
	features  [][5]string
	figure    string  // what it is measured in: ml, cm, by, g, W, lm; "" for nothing
	values    []int64 // in the base unit; for by, width and height in turn
	colours   bool
	sizes     []string // of clothes; "uk" for shoes
	sides     bool     // there is a left and a right one
	parts     []string // where it also comes as a set of parts: what is in it
	per       []string // counts that say what kind it is: "2 person"
	accessory string   // what goes with it
	part      string   // what is replaced in it
	category  string
}

var goods = []good{
	{noun: [5]string{"gas stove", "Gaskocher", "réchaud à gaz", "fornello a gas", "hornillo de gas"},
		features: [][5]string{{"piezo ignition", "Piezozündung", "allumage piézo", "accensione piezo", "encendido piezo"}, {"windproof", "windfest", "coupe-vent", "antivento", "cortavientos"}},
		figure:   "W", values: []int64{1800, 2200, 2600, 3000}, accessory: "wind shield", part: "burner head", category: "Camp cooking", per: []string{"1 burner", "2 burner"}},
	{noun: [5]string{"tarpaulin", "Abdeckplane", "bâche", "telone", "toldo"},
		features: [][5]string{{"reinforced", "verstärkt", "renforcée", "rinforzato", "reforzado"}, {"ripstop", "Ripstop", "ripstop", "ripstop", "ripstop"}},
		figure:   "by", values: []int64{2000, 3000, 3000, 4000, 4000, 6000, 3000, 3000}, colours: true, accessory: "pole set", part: "eyelets", category: "Shelter"},
	{noun: [5]string{"head torch", "Stirnlampe", "lampe frontale", "lampada frontale", "linterna frontal"},
		features: [][5]string{{"dimmable", "dimmbar", "à intensité variable", "dimmerabile", "regulable"}, {"motion sensor", "Bewegungssensor", "capteur de mouvement", "sensore di movimento", "sensor de movimiento"}},
		figure:   "lm", values: []int64{200, 350, 500, 800}, colours: true, accessory: "helmet clip", part: "strap", category: "Lighting"},
	{noun: [5]string{"trekking poles", "Wanderstöcke", "bâtons de marche", "bastoncini da trekking", "bastones de senderismo"},
		features: [][5]string{{"telescopic", "teleskopisch", "télescopiques", "telescopici", "telescópicos"}, {"carbon", "Carbon", "carbone", "carbonio", "carbono"}, {"cork grip", "Korkgriff", "poignée liège", "impugnatura sughero", "empuñadura corcho"}},
		figure:   "cm", values: []int64{1100, 1200, 1300, 1350}, colours: true, accessory: "snow baskets", part: "tips", category: "Walking"},
	{noun: [5]string{"dry bag", "Packsack", "sac étanche", "sacca stagna", "bolsa estanca"},
		features: [][5]string{{"roll top", "Rollverschluss", "fermeture enroulable", "chiusura arrotolabile", "cierre enrollable"}, {"shoulder strap", "Schultergurt", "bandoulière", "tracolla", "bandolera"}},
		figure:   "ml", values: []int64{5000, 10000, 20000, 35000}, colours: true, accessory: "deck clips", part: "buckle", category: "Bags"},
	{noun: [5]string{"vacuum flask", "Isolierflasche", "bouteille isotherme", "borraccia termica", "termo"},
		features: [][5]string{{"double walled", "doppelwandig", "double paroi", "doppia parete", "doble pared"}, {"leakproof", "auslaufsicher", "anti-fuite", "a prova di perdite", "antigoteo"}},
		figure:   "ml", values: []int64{350, 500, 750, 1000}, colours: true, accessory: "carry sling", part: "stopper", category: "Drinks"},
	{noun: [5]string{"camping stool", "Campinghocker", "tabouret de camping", "sgabello da campeggio", "taburete de camping"},
		features: [][5]string{{"three-legged", "dreibeinig", "à trois pieds", "a tre gambe", "de tres patas"}, {"aluminium", "Aluminium", "aluminium", "alluminio", "aluminio"}},
		figure:   "cm", values: []int64{350, 400, 450}, colours: true, accessory: "carry sack", part: "foot caps", category: "Furniture"},
	{noun: [5]string{"gaiters", "Gamaschen", "guêtres", "ghette", "polainas"},
		features: [][5]string{{"breathable", "atmungsaktiv", "respirantes", "traspiranti", "transpirables"}, {"zipped", "Reißverschluss", "zippées", "con cerniera", "con cremallera"}},
		colours:  true, sizes: []string{"S", "M", "L", "XL"}, accessory: "repair patches", part: "under-boot strap", category: "Walking"},
	{noun: [5]string{"approach shoes", "Zustiegsschuhe", "chaussures d'approche", "scarpe da avvicinamento", "calzado de aproximación"},
		features: [][5]string{{"suede", "Wildleder", "daim", "camoscio", "ante"}, {"grippy sole", "griffige Sohle", "semelle adhérente", "suola aderente", "suela adherente"}},
		colours:  true, sizes: []string{"uk"}, accessory: "insoles", part: "laces", category: "Footwear"},
	{noun: [5]string{"down jacket", "Daunenjacke", "doudoune", "piumino", "chaqueta de plumas"},
		features: [][5]string{{"hooded", "mit Kapuze", "à capuche", "con cappuccio", "con capucha"}, {"quilted", "gesteppt", "matelassée", "trapuntato", "acolchada"}},
		colours:  true, sizes: []string{"S", "M", "L", "XL", "XXL"}, accessory: "wash bag", part: "zip puller", category: "Clothing"},
	{noun: [5]string{"chopping board", "Schneidebrett", "planche à découper", "tagliere", "tabla de cortar"},
		features: [][5]string{{"bamboo", "Bambus", "bambou", "bambù", "bambú"}, {"juice groove", "Saftrille", "rigole à jus", "scanalatura", "ranura para jugo"}},
		figure:   "by", values: []int64{200, 300, 300, 400, 350, 500}, accessory: "care oil", part: "rubber feet", category: "Kitchen"},
	{noun: [5]string{"cook set", "Kochset", "popote", "set da cucina", "batería de camping"},
		features: [][5]string{{"anodised", "eloxiert", "anodisée", "anodizzato", "anodizada"}, {"nesting", "ineinander", "gigogne", "impilabile", "apilable"}},
		parts:    []string{"4", "5", "7", "9"}, accessory: "windscreen", part: "pot gripper", category: "Camp cooking"},
	{noun: [5]string{"dome tent", "Kuppelzelt", "tente dôme", "tenda a cupola", "tienda iglú"},
		features: [][5]string{{"fire retardant", "flammhemmend", "ignifugée", "ignifuga", "ignífuga"}, {"sewn-in groundsheet", "eingenähter Boden", "tapis de sol cousu", "catino cucito", "suelo cosido"}},
		per:      []string{"2 person", "3 person", "4 person"}, colours: true, accessory: "footprint", part: "fibreglass pole", category: "Shelter"},
	{noun: [5]string{"ratchet strap", "Spanngurt", "sangle à cliquet", "cinghia a cricchetto", "correa de carraca"},
		features: [][5]string{{"heavy hook", "Schwerlasthaken", "crochet renforcé", "gancio pesante", "gancho pesado"}, {"polyester", "Polyester", "polyester", "poliestere", "poliéster"}},
		figure:   "cm", values: []int64{2500, 4000, 5000, 6000}, colours: true, accessory: "edge protectors", part: "ratchet handle", category: "Hardware"},
	{noun: [5]string{"wing mirror", "Außenspiegel", "rétroviseur", "specchietto retrovisore", "retrovisor"},
		features: [][5]string{{"heated", "beheizt", "chauffant", "riscaldato", "calefactable"}, {"convex", "konvex", "convexe", "convesso", "convexo"}},
		sides:    true, accessory: "blind spot sticker", part: "mirror glass", category: "Car parts"},
	{noun: [5]string{"watering spout", "Gießaufsatz", "pomme d'arrosage", "becco annaffiatore", "boquilla de riego"},
		features: [][5]string{{"fine rose", "feine Brause", "jet fin", "doccia fine", "ducha fina"}, {"swivel", "schwenkbar", "pivotante", "girevole", "giratoria"}},
		figure:   "cm", values: []int64{120, 180, 240}, colours: true, accessory: "hose adaptor", part: "washer", category: "Garden"},
	{noun: [5]string{"scratching post", "Kratzbaum", "arbre à chat", "tiragraffi", "rascador"},
		features: [][5]string{{"sisal", "Sisal", "sisal", "sisal", "sisal"}, {"plush", "Plüsch", "velours", "peluche", "felpa"}},
		figure:   "cm", values: []int64{600, 900, 1100, 1500}, colours: true, accessory: "dangling mouse", part: "sisal pole", category: "Pets"},
	{noun: [5]string{"nail varnish", "Nagellack", "vernis à ongles", "smalto", "esmalte de uñas"},
		features: [][5]string{{"quick drying", "schnelltrocknend", "séchage rapide", "asciugatura rapida", "secado rápido"}, {"glossy", "glänzend", "brillant", "brillante", "brillo"}},
		figure:   "ml", values: []int64{8, 10, 12, 15}, colours: true, accessory: "remover pads", part: "brush cap", category: "Beauty"},
	{noun: [5]string{"ground coffee", "gemahlener Kaffee", "café moulu", "caffè macinato", "café molido"},
		features: [][5]string{{"decaffeinated", "entkoffeiniert", "décaféiné", "decaffeinato", "descafeinado"}, {"fairly traded", "fair gehandelt", "équitable", "equosolidale", "comercio justo"}},
		figure:   "g", values: []int64{227, 250, 454, 500, 1000}, accessory: "scoop", part: "valve", category: "Food"},
	{noun: [5]string{"extension lead", "Verlängerungskabel", "rallonge électrique", "prolunga", "alargador"},
		features: [][5]string{{"surge protected", "Überspannungsschutz", "parasurtenseur", "protezione sovratensioni", "protección sobretensión"}, {"outdoor", "Außenbereich", "extérieur", "da esterno", "exterior"}},
		figure:   "cm", values: []int64{1000, 2000, 5000, 10000}, colours: true, per: []string{"3-pin", "4 way"}, accessory: "cable tidy", part: "fuse", category: "Electrical"},
}

// brands of all shapes, some with words that would mean something elsewhere.
var brands = []struct{ name, code, legal string }{
	{"Tarnwick", "TW", "Ltd"}, {"Ottermere", "OM", "GmbH"}, {"Fellgrove", "FG", ""}, {"Brackenby", "BB", "Inc."},
	{"Skarholt", "SK", "AS"}, {"Merrowdale", "MD", "& Co. KG"}, {"Blue Heron", "BH", "Ltd."}, {"Pro Tarn", "PT", "S.r.l."},
	{"Märlund", "ML", "AB"}, {"Petit Caillou", "PC", "SAS"}, {"Silver Fold", "SF", ""}, {"Wrenmoor & Daughters", "WD", "plc"},
	{"Kit Harrow", "KH", "Sp. z o.o."}, {"Eskdrift", "E", "BV"},
}

var ranges = []string{"", "", "Saltgrass", "Cairn", "Low Tide", "Harebell", "Nordlys 30", "Marram", "Kestrel"}

var colours = [][5]string{
	{"black", "schwarz", "noir", "nero", "negro"}, {"white", "weiß", "blanc", "bianco", "blanco"}, {"red", "rot", "rouge", "rosso", "rojo"},
	{"blue", "blau", "bleu", "blu", "azul"}, {"green", "grün", "vert", "verde", "verde"}, {"grey", "grau", "gris", "grigio", "gris"},
	{"navy", "dunkelblau", "bleu marine", "blu scuro", "azul marino"}, {"brown", "braun", "marron", "marrone", "marrón"},
	{"orange", "orange", "orange", "arancione", "naranja"}, {"yellow", "gelb", "jaune", "giallo", "amarillo"},
}

var alsoColours = map[string]string{"grey": "gray", "navy": "dark blue"}

var sideWords = [2][5]string{{"left", "links", "gauche", "sinistra", "izquierda"}, {"right", "rechts", "droite", "destra", "derecha"}}

// packsIn are ways to say that n are sold as one; %d is n.
var packsIn = [5][]string{
	{"pack of %d", "%d pack", "%dpk", "%d-pack", "(pack of %d)", "set of %d", "box of %d", "%d pcs", "%d pieces", "%d count", "%dct", "case of %d", "x%d", "%d x"},
	{"%der-Pack", "%der Set", "%d Stück", "%d Stk"},
	{"lot de %d", "paquet de %d", "boîte de %d"},
	{"confezione da %d", "scatola da %d", "%d pezzi"},
	{"paquete de %d", "caja de %d", "juego de %d", "%d uds"},
}

var singles = [5][]string{{"1 pack", "pack of 1", "1 pc", "1 piece"}, {"1 Stück"}, {"paquet de 1"}, {"1 pezzo"}, {"1 ud"}}

var tellings = []string{"refill", "kit", "bundle", "junior", "mini", "pro", "plus", "max", "without carry bag", "body only", "with lid"}

var generations = []string{"II", "mk2", "mk 3", "2nd gen", "generation 3", "2024"}

var shouts = []string{"", "", "", "", "Great value", "UK stock", "WOW!", "fast dispatch", "***"}

var books = []struct{ title, author string }{
	{"The Ferryman's Second Winter", "Ilse Marrowby"}, {"Nine Red Boats", "Tomas Querrell"}, {"Pro and Contra of Small Islands", "Ada Wickerstaff"},
	{"Left at the Lighthouse", "Bram Oosterlund"}, {"A Used Map", "Ilse Marrowby"}, {"Twelve Months of Salt", "Pia Sandalwood"},
}
