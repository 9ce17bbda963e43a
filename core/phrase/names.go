package phrase

// Names are the labels of the entries of an outing, a contact and the operator where two versions of them stand side
// by side, by their paths; the entries of a plan go by their own fields.
var Names = map[string]string{
	"own_ref":       "your reference",
	"other_ref":     "their reference",
	"until":         "leave by",
	"notes":         "site notes",
	"scheme":        "activation rule",
	"power_w":       "power",
	"good_swr":      "acceptable SWR",
	"at":            "time",
	"freq_hz":       "frequency",
	"deployment_id": "antenna",
}
