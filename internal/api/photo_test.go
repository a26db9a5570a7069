package api

import (
	"encoding/base64"
	"os"
	"testing"
)

// A photo of a drawn cup is taken, one of blue water and one that is none are refused with what to do; nothing is kept.
func TestPhotos(t *testing.T) {
	b := newBench(t)
	photo := func(name string) fields {
		data, err := os.ReadFile("../../core/photo/testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		return fields{"photo": base64.StdEncoding.EncodeToString(data)}
	}
	var c PhotoCup
	b.call("POST", "/api/photos/cup", photo("brown.png"), 200, &c)
	if c.Colour != "brown" || c.Counted != 6 || len(c.Marks) != 6 ||
		c.Looks.Discharge != "brown" || c.Looks.Cup != "brown" ||
		c.Says != "Nearest to brown, fairly sure. 6 grains." {
		t.Errorf("%+v", c)
	}
	var no Problem
	b.call("POST", "/api/photos/cup", photo("blue.png"), 422, &no)
	if no.Finding == nil || len(no.Finding.Next) < 2 {
		t.Errorf("%+v", no)
	}
	b.call("POST", "/api/photos/cup", photo("ciede2000.csv"), 422, nil)
	strip := photo("brown.png")
	strip["white"], strip["pad"] = fields{"x": 0.5, "y": 0.16}, fields{"x": 0.5, "y": 0.5}
	strip["chart"] = []fields{{"x": 0.5, "y": 0.5, "value": 7}, {"x": 0.02, "y": 0.02, "value": 8}}
	var s PhotoStrip
	b.call("POST", "/api/photos/strip", strip, 200, &s)
	if s.Value != 7 || s.Sure != "fairly_sure" {
		t.Errorf("%+v", s)
	}
	strip["chart"] = []fields{{"x": 0.5, "y": 0.5, "value": 7}}
	b.call("POST", "/api/photos/strip", strip, 422, nil)
}
