// Package retouch makes a picture as it goes to a place out of its original and
// a recipe: turned, mirrored, cropped, brightened, on white, in a shape and
// size, with a caption. Originals are never touched, and the same original and
// recipe give the same bytes. It knows nothing of listings or of where pictures
// are kept.
package retouch

import (
	"fmt"
	"unicode/utf8"
)

// Recipe is what is done to a picture, in the order of its fields. The zero
// value leaves it as it is.
type Recipe struct {
	Turn       int    `json:"turn,omitempty" enum:"0,90,180,270" doc:"Clockwise, in degrees"`
	Mirror     bool   `json:"mirror,omitempty" doc:"Left for right, after turning"`
	Crop       *Box   `json:"crop,omitempty" doc:"What is kept of the turned picture"`
	Brightness int    `json:"brightness,omitempty" minimum:"-100" maximum:"100" doc:"Per cent"`
	White      bool   `json:"white,omitempty" doc:"The background, as far as it touches the edge, becomes white"`
	Shape      string `json:"shape,omitempty" enum:",square,4:3,3:4"`
	Pad        bool   `json:"pad,omitempty" doc:"The shape is reached by white at the sides; else by cutting off"`
	Side       int    `json:"side,omitempty" minimum:"0" maximum:"3000" doc:"Pixels of the longer side; 0: as it comes"`
	Enlarge    bool   `json:"enlarge,omitempty" doc:"A smaller one is enlarged to the side; else it stays smaller"`
	Caption    string `json:"caption,omitempty" maxLength:"80"`
	At         string `json:"at,omitempty" enum:",top,bottom" doc:"Where the caption stands; bottom where left out"`
	Kind       string `json:"kind,omitempty" enum:",jpeg,png" doc:"Left out: the original's, where it is one of these, else jpeg"`
}

// Box is a part of a picture, in ten-thousandths of its width and height.
type Box struct {
	X int `json:"x" minimum:"0" maximum:"9999"`
	Y int `json:"y" minimum:"0" maximum:"9999"`
	W int `json:"w" minimum:"1" maximum:"10000"`
	H int `json:"h" minimum:"1" maximum:"10000"`
}

// whole is a box's full width or height.
const whole = 10_000

// MostSide is the longest side that a picture is made with, in pixels.
const MostSide = 3000

// ratios are the shapes that a picture can be brought to, width to height.
var ratios = map[string][2]int{"square": {1, 1}, "4:3": {4, 3}, "3:4": {3, 4}}

// Nothing tells whether a recipe leaves a picture as it is.
func (r *Recipe) Nothing() bool { return *r == Recipe{} }

// Valid tells what is wrong with a recipe.
func (r *Recipe) Valid() error {
	_, shaped := ratios[r.Shape]
	switch b := r.Crop; {
	case r.Turn != 0 && r.Turn != 90 && r.Turn != 180 && r.Turn != 270:
		return fmt.Errorf("a picture is turned by 90, 180 or 270 degrees, not by %d", r.Turn)
	case b != nil && (b.X < 0 || b.Y < 0 || b.W < 1 || b.H < 1 || b.X+b.W > whole || b.Y+b.H > whole):
		return fmt.Errorf("the part that is kept reaches over the edge of the picture")
	case r.Brightness < -100 || r.Brightness > 100:
		return fmt.Errorf("brightness is from -100 to 100, not %d", r.Brightness)
	case r.Shape != "" && !shaped:
		return fmt.Errorf("there is no shape %q; take square, 4:3 or 3:4", r.Shape)
	case r.Side < 0 || r.Side > MostSide:
		return fmt.Errorf("a side has at most %d pixels, not %d", MostSide, r.Side)
	case utf8.RuneCountInString(r.Caption) > 80:
		return fmt.Errorf("a caption has at most 80 characters")
	case r.At != "" && r.At != "top" && r.At != "bottom":
		return fmt.Errorf("a caption stands at the top or the bottom, not %q", r.At)
	case r.Kind != "" && r.Kind != "jpeg" && r.Kind != "png":
		return fmt.Errorf("pictures are made in jpeg or png, not %q", r.Kind)
	}
	return nil
}
