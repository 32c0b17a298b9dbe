// Package api is the contract between the server and the interface: the Go types and the Gin routes that are
// generated from openapi.yaml.
package api

//go:generate sh -c "cd .. && go tool oapi-codegen -config api/generate.yaml api/openapi.yaml"
