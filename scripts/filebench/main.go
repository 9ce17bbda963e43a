// Filebench writes a large file of every kind that can be read, has the program preview it, and prints the most memory that
// took, the time, and what was answered: read, or refused. A file that is refused costs memory too.
package main

import (
	"bufio"
	"bytes"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// kinds names the files and how each part of them is written; head and tail stand around.
var kinds = []struct {
	name, head, tail string
	part             func(i int) string
}{
	{"contacts.adi", "<EOH>\n", "", contact},
	{"tiny.adi", "<EOH>\n", "", func(int) string { return "<CALL:3>Q2A<EOR>" }},
	{"one-value.adi", "<CALL:5>Q2TAV<COMMENT:99999999>", "", func(int) string { return "words and words " }},
	{"contacts.adx", "<ADX><RECORDS>\n", "</RECORDS></ADX>", func(i int) string {
		return fmt.Sprintf("<RECORD><CALL>Q%dAB</CALL><QSO_DATE>20260516</QSO_DATE><TIME_ON>%s</TIME_ON><BAND>40m</BAND>"+
			"<MODE>CW</MODE></RECORD>\n", i, clock(i))
	}},
	{"utf16.adi", "<EOH>\n", "", contact},
	{"sweep.s1p", "# MHZ Z RI R 50\n", "", func(i int) string {
		return fmt.Sprintf("%.6f 1.02 %.4f\n", 7+float64(i)*1e-6, float64(i%100)/100)
	}},
	{"sweep.csv", "MHz;SWR\n", "", func(i int) string { return fmt.Sprintf("%.6f;1.%d\n", 7+float64(i)*1e-6, i%10) }},
	{"one-line.csv", "MHz,SWR\n", "", func(i int) string { return fmt.Sprintf("%.6f,1.%d,", 7+float64(i)*1e-6, i%10) }},
	{"reports.csv", "timestamp,sender,receiver,locator,frequency,mode,snr,power\n", "", func(i int) string {
		at := time.Date(2026, 5, 16, 0, 0, 0, 0, time.UTC).Add(time.Duration(i/400) * 2 * time.Minute)
		return fmt.Sprintf("%s,Q1REED,Q%dAB,IN46,7.0386,WSPR,%d,23\n", at.Format(time.DateTime), i%400, -20+i%25)
	}},
	{"site.gpx", `<gpx version="1.1"><wpt lat="46.5" lon="-13"/><trk><trkseg>`, "</trkseg></trk></gpx>", func(i int) string {
		return fmt.Sprintf(`<trkpt lat="46.%06d" lon="-13"/>`, i%1000000)
	}},
	{"site.geojson", `{"type":"LineString","coordinates":[[-13,46]`, "]}", func(i int) string {
		return fmt.Sprintf(",[-13.%06d,46]", i%1000000)
	}},
}

func clock(i int) string { return fmt.Sprintf("%02d%02d%02d", i/3600%24, i/60%60, i%60) }

func contact(i int) string {
	var b strings.Builder
	for _, f := range [][2]string{{"CALL", fmt.Sprintf("Q%dAB", i)}, {"QSO_DATE", "20260516"}, {"TIME_ON", clock(i)}, {"BAND", "40m"},
		{"FREQ", "7.032"}, {"MODE", "CW"}, {"RST_SENT", "599"}, {"RST_RCVD", "579"}, {"GRIDSQUARE", "IN46"}, {"TX_PWR", "5"},
		{"NAME", "Somebody"}, {"COMMENT", "some words of it"}, {"QTH", "a village"}, {"MY_GRIDSQUARE", "IN36"}, {"APP_X_Y", "12345"}} {
		fmt.Fprintf(&b, "<%s:%d>%s ", f[0], len(f[1]), f[1])
	}
	return b.String() + "<EOR>\n"
}

// write writes a file of about so many bytes, piece by piece: the memory of a program that was just started counts what its
// parent had, so this one has to stay small.
func write(path, head, tail string, part func(int) string, size int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer f.Close()
	b := bufio.NewWriter(f)
	var to io.Writer = b
	if strings.HasPrefix(filepath.Base(path), "utf16") {
		to, size = transform.NewWriter(b, unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder()), size/2
	}
	written := 0
	put := func(text string) {
		n, e := io.WriteString(to, text)
		written, err = written+n, errors.Join(err, e)
	}
	put(head)
	for i := 0; written < size && err == nil; i++ {
		put(part(i))
	}
	put(tail)
	return errors.Join(err, b.Flush())
}

func run() error {
	megabytes := flag.Int("mb", 30, "the size of the files in MB")
	binary := flag.String("bin", "bin/reed", "the program")
	flag.Parse()
	dir, err := os.MkdirTemp("", "reed-files-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	out := bufio.NewWriter(os.Stdout)
	defer out.Flush()
	fmt.Fprintf(out, "files of %d MB: most memory in MB, seconds\n", *megabytes)
	for _, k := range kinds {
		path := filepath.Join(dir, k.name)
		if err := write(path, k.head, k.tail, k.part, *megabytes<<20); err != nil {
			return err
		}
		c := exec.Command(*binary, "preview", path)
		var told bytes.Buffer
		c.Stderr = &told
		begun := time.Now()
		err := c.Run()
		says := "read"
		if err != nil {
			says = "refused: " + strings.TrimSpace(told.String()[strings.LastIndex(told.String(), k.name)+len(k.name)+1:])
		}
		used := c.ProcessState.SysUsage().(*syscall.Rusage).Maxrss >> 10
		fmt.Fprintf(out, "%-14s %5d %6.1f  %.110s\n", k.name, used, time.Since(begun).Seconds(), says)
		if err := os.Remove(path); err != nil {
			return err
		}
	}
	return nil
}

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}
