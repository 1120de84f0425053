package main

import (
	"go/types"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	text  = types.Typ[types.String]
	whole = types.Typ[types.Int]
)

const schema = `    Vessel:
      type: object
      x-go-type: bench.Vessel
      x-without: [secret]
      required: [name, gone]
      properties:
        name: {type: string, maxLength: 40, description: what it is called}
        gone: {type: string}
`

func TestASchemaFollowsItsType(t *testing.T) {
	fields := []field{{"name", false, text}, {"least", false, whole}, {"note", true, types.NewPointer(text)},
		{"secret", false, text}, {"sizes", true, types.NewSlice(whole)}}
	got, err := follow(schema, "bench.Vessel", fields, nil)
	require.NoError(t, err)
	assert.Equal(t, `    Vessel:
      type: object
      x-go-type: bench.Vessel
      x-without: [secret]
      required: [name, least]
      properties:
        name: {type: string, maxLength: 40, description: what it is called}
        least: {type: integer, minimum: -2147483648, maximum: 2147483647}
        note: {nullable: true, type: string, maxLength: 5000}
        sizes: {type: array, maxItems: 100000, items: {type: integer, minimum: -2147483648, maximum: 2147483647}}
`, got)
	again, err := follow(got, "bench.Vessel", fields, nil)
	require.NoError(t, err)
	assert.Equal(t, got, again, "a second time changes nothing")
}

func TestAShapeOfTheBundleFollowsItsType(t *testing.T) {
	const shape = `  "vessel": {
   "$comment": "bench.Vessel without secret",
   "properties": {
    "name": {
     "type": "string"
    },
    "gone": {
     "type": "string"
    }
   },
   "additionalProperties": false
  },
`
	fields := []field{{"name", false, text}, {"secret", false, text}, {"sizes", true, types.NewSlice(whole)}}
	got, err := followInBundle(shape, "bench.Vessel", "secret", fields, nil)
	require.NoError(t, err)
	assert.Equal(t, `  "vessel": {
   "$comment": "bench.Vessel without secret",
   "properties": {
    "name": {
     "type": "string"
    },
    "sizes": {
     "type": "array",
     "items": {
      "type": "integer"
     }
    }
   },
   "additionalProperties": false
  },
`, got)
	_, err = followInBundle(shape, "bench.Vessel", "", []field{{"odd", false, types.NewChan(types.SendOnly, text)}}, nil)
	assert.ErrorContains(t, err, "bench.Vessel.odd", "what it has no word for is said")
}
