package phrase

// Names are what the entries of an outing, a contact and the operator are called where two versions of them stand side
// by side, by their paths; the entries of a plan go by their own fields.
var Names = map[string]string{
	"own_ref":       "your reference",
	"other_ref":     "their reference",
	"until":         "gate",
	"notes":         "what is there",
	"scheme":        "it counts with",
	"power_w":       "power",
	"good_swr":      "good enough",
	"at":            "time",
	"freq_hz":       "frequency",
	"deployment_id": "antenna",
}
