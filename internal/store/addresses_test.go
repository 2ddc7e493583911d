package store

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSavedAddressesTakeTheWordsOfToday(t *testing.T) {
	for old, want := range map[string]string{
		"/doubts":                     "/quality",
		"/immediate?by=site&got=paid": "/immediate?achieved=paid&by=site",
		"/orders?where=paid+%3D%3D+null&doubt=no-site&sort=number":                                "/orders?behind=quality%3Fcode%3Dno-site&sort=number&where=paid+%3D%3D+null",
		"/orders?period=2026-07&by=site&group=&open=at-end&basis=shipped&columns=number":          "/orders?behind=open%3Fby%3Dsite%26group%3D%26list%3Dat-end%26period%3D2026-07&columns=number",
		"/orders?by=site&group=Galway&over=10&period=2026&beyond=waiting&sort=number":             "/orders?behind=took%3Fbeyond%3Dwaiting%26by%3Dsite%26group%3DGalway%26over%3D10%26period%3D2026&sort=number",
		"/orders?mark=amber%3A+true&mark=plum%3A+true":                                            "/orders?highlight=amber%3A+true&highlight=plum%3A+true",
		"/orders?by=site&group=Galway&state=running":                                              "/orders?by=site&group=Galway&state=running",
		"/orders?by=site&group=Galway&status=latest%3Apacked&at=2026-03-16&columns=number":        "/orders?behind=status-latest%3Fat%3D2026-03-16%26by%3Dsite%26group%3DGalway%26list%3Dlatest%253Apacked&columns=number",
		"/orders?status=moved%3Aa+%E2%86%92+b&period=2026&source=daily":                           "/orders?behind=status-transitions%3Flist%3Dwent%253Aa%2B%25E2%2586%2592%2Bb%26period%3D2026%26source%3Ddaily",
		"/across?rows=site&show=value&currency=EUR":                                               "/crosstab?rows=site&show=value",
		"/orders?figure=units&across_rows=site&basis=shipped&row=&by_date=shipped&columns=number": "/orders?behind=crosstab%3Fbasis%3Dshipped%26date%3Dshipped%26row%3D%26rows%3Dsite%26show%3Dunits&columns=number",
		"/orders?figure=orders&each=month&period=2026&place=not-yet":                              "/orders?behind=compare%3Fbasis%3Dordered%26each%3Dmonth%26period%3D2026%26place%3Dnot-yet%26show%3Dorders",
		"/statuses?show=stays&sort=length":                                                        "/statuses?show=periods&sort=length",
		"/open?period=2026-07":                                                                    "/open?period=2026-07",
		"/open?show=time":                                                                         "/open?each=month",
		"/open?each=week&period=2026&show=time":                                                   "/open?each=week&period=2026",
		"/open?each=week&show=lanes&sort=age":                                                     "/open?sort=age&timeline=true",
		"/open?each=week&mix=quarter&show=ages":                                                   "/open?ages=true&each=quarter",
		"/open?each=week&mix=month&show=period":                                                   "/open",
		"/how-long?by=site&where=open+%3D%3D+%22x%22":                                             "/how-long?by=site&where=open+%3D%3D+%22x%22",
		"/orders?%zz": "/orders?%zz",
	} {
		assert.Equal(t, want, currentAddress(old), old)
	}
}
