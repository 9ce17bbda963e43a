package exchange

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"
)

func picture(w, h int) image.Image {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for x := range w {
		for y := range h {
			img.Set(x, y, color.NRGBA{uint8(x), uint8(y), 90, 255})
		}
	}
	return img
}

func asJPEG(t *testing.T, w, h int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, picture(w, h), nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestAPhotoLosesWhatTheCameraNotes(t *testing.T) {
	const secret = "GPSLatitude 46.52 N"
	plain := asJPEG(t, 64, 48)
	// A note of the camera stands in a segment of its own behind the first marker.
	note := append([]byte("Exif\x00\x00"), secret...)
	file := append([]byte{0xff, 0xd8, 0xff, 0xe1, 0, byte(len(note) + 2)}, note...)
	file = append(file, plain[2:]...)
	got, err := CleanPhoto(file)
	if err != nil || got.Width != 64 || got.Height != 48 {
		t.Fatalf("%v %+v", err, got.Width)
	}
	if bytes.Contains(got.JPEG, []byte(secret)) || bytes.Contains(got.JPEG, []byte("Exif")) {
		t.Error("the note is still there")
	}
	// A PNG with a text chunk, half of it clear: paper shows through.
	clear := image.NewNRGBA(image.Rect(0, 0, 20, 20))
	var b bytes.Buffer
	if err := png.Encode(&b, clear); err != nil {
		t.Fatal(err)
	}
	chunk := append([]byte("tEXt"), "Comment\x00"+secret...)
	text := binary.BigEndian.AppendUint32(nil, uint32(len(chunk)-4))
	text = append(text, chunk...)
	text = binary.BigEndian.AppendUint32(text, crc32.ChecksumIEEE(chunk))
	head := 8 + 25 // the signature and the first chunk
	marked := append(append(append([]byte{}, b.Bytes()[:head]...), text...), b.Bytes()[head:]...)
	got, err = CleanPhoto(marked)
	if err != nil || bytes.Contains(got.JPEG, []byte(secret)) {
		t.Fatalf("%v", err)
	}
	img, err := jpeg.Decode(bytes.NewReader(got.JPEG))
	if err != nil {
		t.Fatal(err)
	}
	if r, g, _, _ := img.At(10, 10).RGBA(); r < 0xf000 || g < 0xf000 {
		t.Errorf("what was clear is %x %x now", r, g)
	}
}

func TestWhatIsNoPhotoIsRefused(t *testing.T) {
	whole := asJPEG(t, 300, 200)
	bomb := asJPEG(t, 8, 8)
	// The frame's header claims 60000 by 60000 pixels.
	at := bytes.Index(bomb, []byte{0xff, 0xc0})
	binary.BigEndian.PutUint16(bomb[at+5:], 60000)
	binary.BigEndian.PutUint16(bomb[at+7:], 60000)
	for name, c := range map[string]struct {
		file []byte
		want string
	}{
		"text":      {[]byte("hello"), "JPEG or PNG"},
		"nothing":   {nil, "JPEG or PNG"},
		"cut off":   {whole[:len(whole)/2], "damaged"},
		"too wide":  {asJPEG(t, 2500, 10), "at most 2400 along a side"},
		"a bomb":    {bomb, "60000 by 60000"},
		"too heavy": {make([]byte, MaxPhotoBytes+1), "at most 6 MB"},
	} {
		if _, err := CleanPhoto(c.file); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", name, err, c.want)
		}
	}
}

func FuzzCleanPhoto(f *testing.F) {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, picture(16, 12), nil); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	b.Reset()
	if err := png.Encode(&b, picture(16, 12)); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, file []byte) {
		if got, err := CleanPhoto(file); err == nil {
			if _, err := jpeg.DecodeConfig(bytes.NewReader(got.JPEG)); err != nil {
				t.Error(err)
			}
		}
	})
}
