package band

import "reed/core/quantity"

// SegmentForm is a segment as it is typed.
type SegmentForm struct {
	Band string        `json:"band"`
	Lo   quantity.Said `json:"lo"`
	Hi   quantity.Said `json:"hi"`
	Use  string        `json:"use"`
	On   bool          `json:"on"`
}

// Read is the segment, or what at which end cannot be read.
func (f SegmentForm) Read() (s Segment, end string, err error) {
	s = Segment{Band: f.Band, Use: f.Use, On: f.On}
	if s.Lo, err = f.Lo.Hz(); err != nil {
		return s, "lo", err
	}
	s.Hi, err = f.Hi.Hz()
	return s, "hi", err
}
