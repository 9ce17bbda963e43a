package exchange

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	_ "image/png" // one of the two kinds that are read
)

// Limits of a photo: bytes as it comes, and pixels along its longer side.
const (
	MaxPhotoBytes = 6 << 20
	MaxPhotoSide  = 2400
)

// Photo is a picture made clean: JPEG without anything but the picture itself.
type Photo struct {
	JPEG          []byte
	Width, Height int
}

// CleanPhoto reads a JPEG or PNG and writes it anew as JPEG, so that nothing is left of what a camera notes beside
// the picture: place, time, its own number. Anything else, and what is too large, is an error that says so.
func CleanPhoto(file []byte) (Photo, error) {
	if len(file) > MaxPhotoBytes {
		return Photo{}, &FileError{fmt.Sprintf("a picture of %.1f MB found", float64(len(file))/(1<<20)),
			fmt.Sprintf("at most %d MB", MaxPhotoBytes>>20)}
	}
	// The size is read first: a small file may claim a picture that fills the memory.
	c, kind, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return Photo{}, &FileError{"this is no picture that is read here", "JPEG or PNG"}
	}
	if max(c.Width, c.Height) > MaxPhotoSide || c.Width < 1 || c.Height < 1 {
		return Photo{}, &FileError{fmt.Sprintf("a picture of %d by %d pixels found", c.Width, c.Height),
			fmt.Sprintf("at most %d along a side", MaxPhotoSide)}
	}
	img, _, err := image.Decode(bytes.NewReader(file))
	if err != nil {
		return Photo{}, &FileError{fmt.Sprintf("the %s file is damaged (%v)", kind, err), "a whole picture"}
	}
	// Paper shows through where a PNG is clear.
	flat := image.NewRGBA(img.Bounds())
	draw.Draw(flat, flat.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.Draw(flat, flat.Bounds(), img, img.Bounds().Min, draw.Over)
	var out bytes.Buffer
	if err := jpeg.Encode(&out, flat, &jpeg.Options{Quality: 86}); err != nil {
		return Photo{}, fmt.Errorf("writing the picture: %w", err)
	}
	return Photo{JPEG: out.Bytes(), Width: c.Width, Height: c.Height}, nil
}
