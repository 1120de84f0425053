// Package formats holds the JSON Schemas of Gallipot's files, so that what is documented is what is enforced.
package formats

import _ "embed"

// BundleSchema is the JSON Schema of the formula bundle.
//
//go:embed bundle.schema.json
var BundleSchema []byte
