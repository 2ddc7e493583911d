package demo

import "fmt"

// A site is one of the four from which Sundrift Apiary Supply ships.
type site struct {
	name     string
	country  string
	region   string
	zone     string
	cutOff   string // orders after it count as the next working day's
	currency string
	decimals int
	share    float64 // of all orders
	lead     float64 // median working days from order to shipment
	promise  int     // working days
	rush     [12]float64
	places   []string
	at       [][2]float64 // degrees north and east of the places; of the last nobody knows
}

// Seasons turn round south of the equator; near it the date palms flower first.
var (
	north = [12]float64{0.6, 0.8, 1.3, 1.7, 1.9, 1.5, 1.1, 0.9, 0.7, 0.5, 0.5, 0.6}
	south = [12]float64{1.0, 0.8, 0.7, 0.5, 0.5, 0.5, 0.7, 1.0, 1.5, 1.8, 1.7, 1.3}
	gulf  = [12]float64{1.2, 1.6, 1.7, 1.3, 0.9, 0.6, 0.5, 0.6, 0.9, 1.1, 1.2, 1.1}
)

// Hardly an order goes to fewPlace, beside another place, and what goes to slowPlace is longer on its way than to any other, on purpose.
const (
	besideFew, fewPlace, oneInFew = "Tralee", "Valentia", 17
	fewNorth, fewEast             = "51.90", "-10.35"
	slowPlace, slowDays           = "Dingle", 7
)

// Hamilton and Richmond are places in two countries, on purpose.
var sites = []site{
	{"Saskatoon", "Canada", "Prairies", "America/Regina", "15:00", "CAD", 2, 0.34, 4.2, 6, north,
		[]string{"Saskatoon", "Regina", "Moose Jaw", "Swift Current", "Prince Albert", "Brandon", "Lethbridge", "Red Deer", "Hamilton",
			"Richmond", "Yorkton", "Kelowna"},
		[][2]float64{{52.13, -106.67}, {50.45, -104.62}, {50.39, -105.53}, {50.29, -107.80}, {53.20, -105.75}, {49.85, -99.95},
			{49.69, -112.83}, {52.27, -113.81}, {43.26, -79.87}, {49.17, -123.14}, {51.21, -102.46}}},
	{"Galway", "Ireland", "Connacht", "Europe/Dublin", "14:30", "EUR", 2, 0.27, 3.1, 5, north,
		[]string{"Galway", "Athenry", "Ennis", "Sligo", "Tralee", "Kilkenny", "Cork", "Dingle", "Westport", "Roscrea"},
		[][2]float64{{53.27, -9.05}, {53.30, -8.75}, {52.84, -8.98}, {54.27, -8.47}, {52.27, -9.70}, {52.65, -7.25}, {51.90, -8.47},
			{52.14, -10.27}, {53.80, -9.52}}},
	{"Hamilton", "New Zealand", "Waikato", "Pacific/Auckland", "14:00", "NZD", 2, 0.25, 2.6, 4, south,
		[]string{"Hamilton", "Cambridge", "Te Awamutu", "Tauranga", "Napier", "Nelson", "Richmond", "Ashburton", "Timaru", "Whakatāne"},
		[][2]float64{{-37.79, 175.28}, {-37.89, 175.47}, {-38.01, 175.33}, {-37.69, 176.17}, {-39.49, 176.92}, {-41.27, 173.28}, {-41.34, 173.18},
			{-43.90, 171.75}, {-44.40, 171.25}}},
	{"Muscat", "Oman", "", "Asia/Muscat", "", "OMR", 3, 0.14, 5.0, 7, gulf,
		[]string{"Muscat", "Nizwa", "Sohar", "Rustaq", "Ibri", "Sur", "Salalah", "Bahla"},
		[][2]float64{{23.59, 58.41}, {22.93, 57.53}, {24.35, 56.71}, {23.39, 57.42}, {23.23, 56.52}, {22.57, 59.53}, {17.02, 54.09}}},
}

var channels = []string{"web", "phone", "co-operative", "trade fair"}

var (
	firstWords = []string{"Clover", "Linden", "Heather", "Borage", "Mānuka", "Sage", "Thistle", "Bramble", "Acacia", "Sidr", "Fireweed",
		"Lavender", "Willow", "Hawthorn", "Saltbush", "Goldenrod", "Orchard", "Canola", "Thyme", "Ivy"}
	secondWords = []string{"Ridge", "Hollow", "Bank", "Creek", "Field", "Lane", "Valley", "Wadi", "Lough", "Prairie", "Terrace", "Gate",
		"Meadow", "Point", "Bend", "Hill"}
	thirdWords = []string{"Apiaries", "Honey", "Bee Farm", "Beekeepers' Co-operative", "Queens", "Pollination"}
)

// customerName is the name of the n-th customer of a site; no two are alike.
func customerName(s, n int) string {
	k := n*len(sites) + s
	name := fmt.Sprintf("%s %s %s", firstWords[k%len(firstWords)], secondWords[k/len(firstWords)%len(secondWords)],
		thirdWords[k/(len(firstWords)*len(secondWords))%len(thirdWords)])
	if round := k / (len(firstWords) * len(secondWords) * len(thirdWords)); round > 0 {
		name += fmt.Sprintf(" %d", round+1)
	}
	return name
}

// products are what Sundrift sells.
var products = []struct{ code, name, category string }{
	{"HIVE-8", "Hive, eight frames", "hives"}, {"HIVE-10", "Hive, ten frames", "hives"}, {"HIVE-NUC", "Nucleus hive", "hives"},
	{"ROOF-F", "Flat roof", "hives"}, {"FLOOR-M", "Mesh floor", "hives"}, {"SUPER-H", "Half super", "hives"},
	{"FRAME-D", "Deep frames, box of ten", "frames"}, {"FRAME-S", "Shallow frames, box of ten", "frames"},
	{"WAX-D", "Wax foundation, deep", "frames"},
	{"WAX-S", "Wax foundation, shallow", "frames"}, {"EXTR-4", "Extractor, four frames", "extractors"},
	{"EXTR-20", "Extractor, twenty frames", "extractors"},
	{"TANK-50", "Settling tank, 50 litres", "extractors"}, {"SUIT-M", "Suit, medium", "suits"}, {"SUIT-L", "Suit, large", "suits"},
	{"VEIL", "Veil", "suits"}, {"GLOVE", "Gloves", "suits"}, {"SMOKER", "Smoker", "tools"}, {"TOOL-J", "Hive tool", "tools"},
	{"FEED-S", "Syrup, 10 litres", "feed"}, {"FEED-F", "Fondant, 12 kilograms", "feed"}, {"FEEDER", "Frame feeder", "feed"},
	{"QUEEN-K", "Queen-rearing kit", "queen rearing"}, {"QUEEN-C", "Mailing cages, box of twenty", "queen rearing"},
}

var carriers = []string{"Lark Freight", "Swift & Sons", "Own van", "Harrier Post"}

var (
	givenNames  = []string{"Aoife", "Rangi", "Salim", "Maeve", "Ansel", "Noor", "Tama", "Freya", "Ciarán", "Layla", "Odell", "Hina"}
	familyNames = []string{"Burke", "Parata", "Al-Harthi", "Lindqvist", "Moreau", "Keane", "Ngata", "Brandt", "Osei", "Doyle", "Petrov",
		"Rahal", "Sorensen"}
)
