// Package api holds the contract between the interface and the server, as written by hand.
package api

import _ "embed"

// Contract is openapi.yaml.
//
//go:embed openapi.yaml
var Contract []byte
