package api

import (
	"bytes"
	"encoding/base64"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"
)

// TestGlanceTellsAMachine: what to do, each part with its facts, what is worth finding out at its part, and what was
// done in the year.
func TestGlanceTellsAMachine(t *testing.T) {
	b := newBench(t)
	id := b.add(with("treatment", "in_tank"))
	var g Glance
	b.call("GET", "/api/machines/"+id+"/glance", nil, 200, &g)
	if g.Does == "" || len(g.Parts) != 10 || !g.Scheme.Steam || g.Scheme.Brews != SchemeBrewsOwn {
		t.Fatalf("%+v", g)
	}
	facts := 0
	for _, p := range g.Parts {
		facts += len(p.Facts)
	}
	var m Machine
	b.call("GET", "/api/machines/"+id, nil, 200, &m)
	if facts != len(m.Facts) {
		t.Errorf("%d facts at the parts, %d of the machine", facts, len(m.Facts))
	}
	if len(g.Worth) == 0 || len(g.Worth) > 3 {
		t.Fatalf("%d things worth finding out", len(g.Worth))
	}
	for _, w := range g.Worth {
		if w.Do == "" || w.Says == "" {
			t.Errorf("%+v", w)
		}
		if w.Spot != nil && !w.Spot.Valid() {
			t.Errorf("%s at %s", w.Key, *w.Spot)
		}
	}
	if len(g.Year) != 1 || g.Year[0].Size != YearMarkSizeLarge || g.Done != "1 descale" {
		t.Errorf("descaled just now: %+v, %s", g.Year, g.Done)
	}
	b.knows(id, "steam_material", "copper")
	b.call("GET", "/api/machines/"+id+"/glance", nil, 200, &g)
	for _, p := range g.Parts {
		if p.Spot == SpotSteam && (!p.Known || !strings.Contains(p.Lines[0], "copper")) {
			t.Errorf("%+v", p)
		}
	}
}

// TestPlateAndPhoto: the words are kept, a photo is drawn anew without what the camera wrote, and one that cannot be
// read changes nothing.
func TestPlateAndPhoto(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	at := "/api/machines/" + id
	var p PlateShown
	b.call("PUT", at+"/plate", fields{"model": " Galley two ", "serial": "A-17", "notes": "opens to the left"}, 200, &p)
	if p.Model != "Galley two" || p.Serial != "A-17" || p.Photo {
		t.Errorf("%+v", p)
	}
	b.call("PUT", at+"/plate", fields{"model": strings.Repeat("x", 81), "serial": "", "notes": ""}, 422, nil)
	b.call("GET", at+"/photo", nil, 404, nil)

	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	img.Set(3, 3, color.RGBA{200, 40, 40, 255})
	var file bytes.Buffer
	if err := png.Encode(&file, img); err != nil {
		t.Fatal(err)
	}
	b.call("PUT", at+"/photo", fields{"photo": base64.StdEncoding.EncodeToString(file.Bytes())}, 204, nil)
	b.call("PUT", at+"/photo", fields{"photo": base64.StdEncoding.EncodeToString([]byte("no photo"))}, 422, nil)
	var g Glance
	b.call("GET", at+"/glance", nil, 200, &g)
	if !g.Plate.Photo || g.Plate.Serial != "A-17" {
		t.Errorf("%+v", g.Plate)
	}
	res := b.raw("GET", at+"/photo", "")
	if back, err := jpeg.Decode(res.Body); err != nil || back.Bounds().Dx() != 60 {
		t.Errorf("%v", err)
	}
	b.call("DELETE", at+"/photo", nil, 204, nil)
	b.call("GET", at+"/photo", nil, 404, nil)
}
