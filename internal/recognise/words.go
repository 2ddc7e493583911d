package recognise

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Plain is a word in small letters without accents, by which words are looked up.
func Plain(word string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case unicode.Is(unicode.Mn, r):
			return -1
		case r == 'ß':
			return 's'
		case r == 'ł', r == 'Ł':
			return 'l'
		}
		return unicode.ToLower(r)
	}, norm.NFKD.String(word))
}

// months are the names of the months and their abbreviations in English, German, French, Spanish, Italian, Portuguese, Dutch and
// Polish, in small letters without accents.
var months = func() map[string]int {
	all := map[string]int{}
	for _, language := range []string{
		"january february march april may june july august september october november december",
		"jan feb mar apr may jun jul aug sep oct nov dec",
		"januar februar marz april mai juni juli august september oktober november dezember",
		"jan feb mrz apr mai jun jul aug sep okt nov dez",
		"janner feber maerz april mai juni juli august sept oktober november dezember",
		"janvier fevrier mars avril mai juin juillet aout septembre octobre novembre decembre",
		"janv fevr mars avr mai juin juil aout sept oct nov dec",
		"enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
		"ene feb mar abr may jun jul ago sep oct nov dic",
		"gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
		"gen feb mar apr mag giu lug ago set ott nov dic",
		"janeiro fevereiro marco abril maio junho julho agosto setembro outubro novembro dezembro",
		"jan fev mar abr mai jun jul ago set out nov dez",
		"januari februari maart april mei juni juli augustus september oktober november december",
		"jan feb mrt apr mei jun jul aug sep okt nov dec",
		"stycznia lutego marca kwietnia maja czerwca lipca sierpnia wrzesnia pazdziernika listopada grudnia",
		"styczen luty marzec kwiecien maj czerwiec lipiec sierpien wrzesien pazdziernik listopad grudzien",
		"sty lut mar kwi maj cze lip sie wrz paz lis gru",
	} {
		for i, name := range strings.Fields(language) {
			if known := all[name]; known != 0 && known != i+1 {
				panic("recognise: " + name + " is two months")
			}
			all[name] = i + 1
		}
	}
	return all
}()

// fillers are words that stand beside dates and say nothing of them: articles, and the days of the week.
var fillers = set(`of the de del di den der le el a at um
	monday tuesday wednesday thursday friday saturday sunday mon tue tues wed thu thur thurs fri sat sun
	montag dienstag mittwoch donnerstag freitag samstag sonnabend sonntag mo di mi do fr sa so
	lundi mardi mercredi jeudi vendredi samedi dimanche lun mer jeu ven sam dim
	lunes martes miercoles jueves viernes sabado domingo mie jue vie sab dom
	lunedi martedi mercoledi giovedi venerdi gio
	segunda terca quarta quinta sexta feira seg ter qua qui sex
	maandag dinsdag woensdag donderdag vrijdag zaterdag zondag ma wo vr za zo
	poniedzialek wtorek sroda czwartek piatek sobota niedziela pon wt sr czw pt sob niedz r roku`)

// ordinals stand after the number of a day.
var ordinals = set("st nd rd th er e º ° ª")

func set(words string) map[string]bool {
	all := map[string]bool{}
	for word := range strings.FieldsSeq(words) {
		all[word] = true
	}
	return all
}
