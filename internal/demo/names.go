package demo

import "fmt"

// A site is one of the four from which Sundrift Apiary Supply ships.
type site struct {
	name     string
	country  string
	currency string
	decimals int
	share    float64 // of all orders
	lead     float64 // median working days from order to shipment
	promise  int     // working days
	rush     [12]float64
	places   []string
}

// Seasons turn round south of the equator; near it the date palms flower first.
var (
	north = [12]float64{0.6, 0.8, 1.3, 1.7, 1.9, 1.5, 1.1, 0.9, 0.7, 0.5, 0.5, 0.6}
	south = [12]float64{1.0, 0.8, 0.7, 0.5, 0.5, 0.5, 0.7, 1.0, 1.5, 1.8, 1.7, 1.3}
	gulf  = [12]float64{1.2, 1.6, 1.7, 1.3, 0.9, 0.6, 0.5, 0.6, 0.9, 1.1, 1.2, 1.1}
)

// Hamilton and Richmond are places in two countries, on purpose.
var sites = []site{
	{"Saskatoon", "Canada", "CAD", 2, 0.34, 4.2, 6, north, []string{"Saskatoon", "Regina", "Moose Jaw", "Swift Current", "Prince Albert", "Brandon", "Lethbridge", "Red Deer", "Hamilton", "Richmond", "Yorkton", "Kelowna"}},
	{"Galway", "Ireland", "EUR", 2, 0.27, 3.1, 5, north, []string{"Galway", "Athenry", "Ennis", "Sligo", "Tralee", "Kilkenny", "Cork", "Dingle", "Westport", "Roscrea"}},
	{"Hamilton", "New Zealand", "NZD", 2, 0.25, 2.6, 4, south, []string{"Hamilton", "Cambridge", "Te Awamutu", "Tauranga", "Napier", "Nelson", "Richmond", "Ashburton", "Timaru", "Whakatāne"}},
	{"Muscat", "Oman", "OMR", 3, 0.14, 5.0, 7, gulf, []string{"Muscat", "Nizwa", "Sohar", "Rustaq", "Ibri", "Sur", "Salalah", "Bahla"}},
}

var channels = []string{"web", "phone", "co-operative", "trade fair"}

var (
	firstWords  = []string{"Clover", "Linden", "Heather", "Borage", "Mānuka", "Sage", "Thistle", "Bramble", "Acacia", "Sidr", "Fireweed", "Lavender", "Willow", "Hawthorn", "Saltbush", "Goldenrod", "Orchard", "Canola", "Thyme", "Ivy"}
	secondWords = []string{"Ridge", "Hollow", "Bank", "Creek", "Field", "Lane", "Valley", "Wadi", "Lough", "Prairie", "Terrace", "Gate", "Meadow", "Point", "Bend", "Hill"}
	thirdWords  = []string{"Apiaries", "Honey", "Bee Farm", "Beekeepers' Co-operative", "Queens", "Pollination"}
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
