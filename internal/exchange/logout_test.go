package exchange

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"reflect"
	"strings"
	"testing"
	"time"

	"reed/core/onair"
)

func someContacts() []onair.Contact {
	at := time.Date(2026, 5, 16, 14, 32, 10, 0, time.UTC)
	return []onair.Contact{
		{Call: "Q2TAV/P", At: at, Seconds: true, Band: "40m", FreqHz: 7.032e6, Mode: "CW", Sent: "599", Received: "579",
			Locator: "JO22ab", PowerW: 5,
			OtherRef: "MI-0003,MI-0005", OwnRef: "MI-0001", Name: "Ida <&>", Comment: "=loud",
			Extra: []onair.Field{{Name: "APP_X_SOMETHING", Value: "7"},
				{Name: "STX", Value: "12"}}},
		{Call: "Q3TAV", At: at.Add(time.Minute), Band: "20m", Mode: "MFSK", Submode: "FT4", Sent: "-12", Received: "+03"},
	}
}

func TestADXThereAndBackIsTheSame(t *testing.T) {
	want := someContacts()
	text, err := WriteADX(Owner{Call: "Q1REED", Locator: "IN36xl", Version: "1"}, want)
	if err != nil {
		t.Fatal(err)
	}
	p, err := Read(context.Background(), strings.NewReader(string(text)), "x.adx", Options{Region: 1})
	if err != nil || p.Kind != "adx" || len(p.Records) != 2 {
		t.Fatalf("%v %+v", err, p)
	}
	var adi strings.Builder
	if err := WriteADI(&adi, Owner{Call: "Q1REED", Locator: "IN36xl", Version: "1"}, want); err != nil {
		t.Fatal(err)
	}
	q, err := Read(context.Background(), strings.NewReader(adi.String()), "x.adi", Options{Region: 1})
	if err != nil {
		t.Fatal(err)
	}
	for i := range want {
		if a, b := p.Records[i].Contact, q.Records[i].Contact; !reflect.DeepEqual(a, b) {
			t.Errorf("by ADX %+v\nby ADI %+v", a, b)
		}
	}
	if c := p.Records[0].Contact; c.Name != "Ida <&>" || c.OtherRef != "MI-0003,MI-0005" || !strings.Contains(string(text),
		`FIELDNAME="SOMETHING"`) {
		t.Errorf("%+v\n%s", c, text)
	}
}

func TestTheTableOfALogIsHarmless(t *testing.T) {
	text, err := WriteLogCSV(Owner{Call: "Q1REED"}, someContacts())
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(strings.NewReader(string(text))).ReadAll()
	if err != nil || len(rows) != 3 {
		t.Fatalf("%v\n%s", err, text)
	}
	cell := func(row int, name string) string {
		for i, n := range rows[0] {
			if n == name {
				return rows[row][i]
			}
		}
		return "no column"
	}
	if cell(1, "COMMENT") != "'=loud" || cell(2, "RST_SENT") != "-12" || cell(2, "RST_RCVD") != "+03" || cell(2, "COMMENT") != "" ||
		cell(1, "APP_X_SOMETHING") != "7" {
		t.Errorf("%s", text)
	}
}

func TestAContactWithoutAPlaceIsInTheMapFileToo(t *testing.T) {
	text, err := WriteLogGeoJSON(Owner{Call: "Q1REED"}, someContacts())
	var got struct {
		Features []struct {
			Geometry   *struct{ Coordinates [2]float64 }
			Properties map[string]string
		}
	}
	if err != nil || json.Unmarshal(text, &got) != nil || len(got.Features) != 2 {
		t.Fatalf("%v\n%s", err, text)
	}
	a, b := got.Features[0], got.Features[1]
	if a.Geometry == nil || a.Geometry.Coordinates[1] < 52 || a.Geometry.Coordinates[1] > 53 || b.Geometry != nil ||
		b.Properties["CALL"] != "Q3TAV" {
		t.Errorf("%s", text)
	}
}
