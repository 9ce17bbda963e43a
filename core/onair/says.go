package onair

import "fmt"

// RadioSays describes what a radio shows beside its frequency.
func RadioSays(name string, simulated bool, swr float64, dbm *float64) string {
	out := name
	if simulated {
		out += ", simulated"
	}
	if swr >= 1 {
		out += fmt.Sprintf("; SWR %.1f", swr)
	}
	if dbm != nil {
		out += fmt.Sprintf("; %.0f dBm on the meter", *dbm)
	}
	return out + "."
}

// ShootsSays describes what an antenna sends towards a station: gain and best in dBi at an angle over the horizon in degrees.
func ShootsSays(name string, gain, best, takeOff float64) string {
	out := fmt.Sprintf("%s sends %+.0f dBi there, %.0f degrees up", name, gain, takeOff)
	if less := best - gain; less >= 1 {
		return fmt.Sprintf("%s, %.0f dB less than in its strongest direction.", out, less)
	}
	return out + ", its strongest direction."
}
