// Package api is the contract, with the types and the client that are generated from it.
package api

import _ "embed" // the contract

// Contract is the API's description, an OpenAPI 3 document in YAML.
//
//go:embed openapi.yaml
var Contract []byte
