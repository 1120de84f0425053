package pantry

import (
	"reflect"
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fill puts something into every exported field, however deep.
func fill(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		fill(v.Elem())
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Field(i).CanSet() && v.Type().Field(i).Name != "Lexicon" {
				fill(v.Field(i))
			}
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 4))
		fill(v.Index(0))
	case reflect.Map:
		in := reflect.New(v.Type().Elem()).Elem()
		fill(in)
		v.Set(reflect.MakeMap(v.Type()))
		v.SetMapIndex(reflect.ValueOf(law.GB), in)
	case reflect.String:
		v.SetString("x")
	case reflect.Float64:
		v.SetFloat(1)
	case reflect.Int, reflect.Int64:
		v.SetInt(1)
	case reflect.Bool:
		v.SetBool(true)
	}
}

// shared lists what two values both point to.
func shared(a, b reflect.Value, path string) (out []string) {
	switch a.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Map:
		if a.IsNil() {
			return nil
		}
		if a.Pointer() == b.Pointer() {
			return []string{path}
		}
	}
	switch a.Kind() {
	case reflect.Pointer:
		return shared(a.Elem(), b.Elem(), path)
	case reflect.Struct:
		for i := range a.NumField() {
			out = append(out, shared(a.Field(i), b.Field(i), path+"."+a.Type().Field(i).Name)...)
		}
	case reflect.Slice:
		for i := range a.Len() {
			out = append(out, shared(a.Index(i), b.Index(i), path+"[]")...)
		}
	case reflect.Map:
		for _, k := range a.MapKeys() {
			out = append(out, shared(a.MapIndex(k), b.MapIndex(k), path+"{}")...)
		}
	}
	return out
}

func TestACloneIsTheSameAndSharesNothing(t *testing.T) {
	var g Ingredient
	fill(reflect.ValueOf(&g).Elem())
	require.NotEmpty(t, g.Inherited.Lists)
	require.NotEmpty(t, g.Looked.Answers)
	is := g.Clone()
	assert.Equal(t, g, is)
	assert.Empty(t, shared(reflect.ValueOf(g), reflect.ValueOf(is), ""))

	var none Ingredient
	assert.Equal(t, none, none.Clone(), "what is not there stays so")
}
