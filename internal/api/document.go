package api

import (
	"encoding/json"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"time"

	"sodrik/internal/core/patch"
	"sodrik/internal/core/webhook"
	"sodrik/internal/people"
)

// Document is the OpenAPI 3.1 description, made from the list of operations and from the types they answer with.
func Document() map[string]any {
	schemas := map[string]any{}
	paths := map[string]any{}
	for _, op := range operations {
		item, _ := paths["/api/v1"+op.path].(map[string]any)
		if item == nil {
			item = map[string]any{}
			paths["/api/v1"+op.path] = item
		}
		o := map[string]any{"operationId": op.id, "summary": op.summary, "tags": []string{tagOf(op)}}
		if op.about != "" {
			o["description"] = op.about
		}
		var params []any
		for _, p := range op.params {
			x := map[string]any{"in": p.in, "name": p.name, "description": p.about, "schema": map[string]any{"type": "string"}}
			if p.as != nil {
				x["schema"] = p.as
			}
			if p.in == "path" {
				x["required"] = true
			}
			if p.example != "" {
				x["example"] = p.example
			}
			params = append(params, x)
		}
		if op.keyed {
			params = append(params, map[string]any{"in": "header", "name": "Idempotency-Key",
				"description": "The same key and request give the same answer again, for a day.",
				"schema":      map[string]any{"type": "string", "maxLength": 200}})
		}
		if params != nil {
			o["parameters"] = params
		}
		switch {
		case op.takes != nil:
			o["requestBody"] = map[string]any{"required": true, "content": mediaOf(op.takes)}
		case op.body != nil:
			o["requestBody"] = map[string]any{"required": true,
				"content": map[string]any{"application/json": map[string]any{"schema": schemaOf(reflect.TypeOf(op.body), schemas),
					"example": op.body}}}
		}
		responses := map[string]any{
			"default": map[string]any{"description": "A problem (RFC 9457), with one entry a field that is wrong.",
				"content": map[string]any{"application/problem+json": map[string]any{"schema": schemaOf(reflect.TypeOf(Details{}),
					schemas)}}}}
		for _, a := range op.answers {
			r := map[string]any{"description": a.about}
			switch {
			case a.media != nil:
				r["content"] = mediaOf(a.media)
			case a.value != nil:
				media := "application/json"
				if _, is := a.value.(Details); is {
					media = "application/problem+json"
				}
				r["content"] = map[string]any{media: map[string]any{"schema": schemaOf(reflect.TypeOf(a.value), schemas)}}
			}
			responses[strconv.Itoa(a.status)] = r
		}
		o["responses"] = responses
		o["security"] = []any{map[string]any{"token": []string{string(op.scope)}}}
		item[strings.ToLower(op.method)] = o
	}
	return map[string]any{
		"openapi": "3.1.0",
		"info": map[string]any{"title": "Sodrik", "version": "1",
			"description": "Encode, draw, prove and read QR codes, and keep them. " +
				"Problems carry the same field and message as the pages and the command line."},
		"servers":  []any{map[string]any{"url": "/"}},
		"paths":    paths,
		"webhooks": webhooksOf(schemas),
		"components": map[string]any{"schemas": schemas,
			"securitySchemes": map[string]any{"token": map[string]any{"type": "http", "scheme": "bearer",
				"description": "A token made under Your account, with one or more of the scopes make, codes:read, codes:write."}}},
	}
}

// webhooksOf describes the messages that are posted to others.
func webhooksOf(schemas map[string]any) map[string]any {
	headers := []any{}
	for _, h := range [][2]string{{webhook.IDHeader, "Of the message; the same however often it is sent."},
		{webhook.TimestampHeader, "When it is sent, in Unix seconds."},
		{webhook.SignatureHeader, "One or more of v1 and, after a comma, the HMAC-SHA-256 of id, timestamp and body, in base64."}} {
		headers = append(headers, map[string]any{"in": "header", "name": h[0], "description": h[1], "required": true,
			"schema": map[string]any{"type": "string"}})
	}
	out := map[string]any{}
	for _, k := range webhook.Kinds {
		out[k.Name] = map[string]any{"post": map[string]any{"operationId": "webhook " + k.Name, "summary": k.Words,
			"description": "Signed after Standard Webhooks 1.0.0. Any status from 200 to 299 takes it; it is sent again otherwise.",
			"tags":        []string{"webhooks"}, "parameters": headers, "security": []any{},
			"requestBody": map[string]any{"required": true, "content": map[string]any{"application/json": map[string]any{
				"schema": map[string]any{"type": "object", "required": []string{"type", "timestamp", "data"},
					"properties": map[string]any{"type": map[string]any{"const": k.Name},
						"timestamp": map[string]any{"type": "string", "format": "date-time"},
						"data":      schemaOf(reflect.TypeOf(k.Data), schemas)}}}}},
			"responses": map[string]any{"2XX": map[string]any{"description": "It is taken."},
				"410": map[string]any{"description": "No more are wanted; the webhook is paused."}}}}
	}
	return out
}

func mediaOf(types []string) map[string]any {
	out := map[string]any{}
	for _, t := range types {
		out[t] = map[string]any{}
	}
	return out
}

// tagOf groups an operation with those of the same first part of the path, and what keeps nothing by itself.
func tagOf(op operation) string {
	if op.scope == people.ScopeMake {
		return "stateless"
	}
	first, _, _ := strings.Cut(op.path[1:], "/")
	return first
}

// schemaOf describes a Go type as JSON Schema; named structs become components.
func schemaOf(t reflect.Type, named map[string]any) map[string]any {
	switch {
	case t == reflect.TypeOf(time.Time{}):
		return map[string]any{"type": "string", "format": "date-time"}
	case t == reflect.TypeOf(Job{}):
		return map[string]any{"type": "object", "description": "A job file, whose form is that of docs/job.schema.json."}
	case t == reflect.TypeOf(patch.Patch{}):
		return map[string]any{"type": "array", "maxItems": patch.MaxOps, "items": operationSchema}
	}
	switch t.Kind() {
	case reflect.Pointer:
		return schemaOf(t.Elem(), named)
	case reflect.String:
		return map[string]any{"type": "string"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64, reflect.Uint8:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.Slice:
		return map[string]any{"type": "array", "items": schemaOf(t.Elem(), named)}
	case reflect.Array:
		return map[string]any{"type": "array", "items": schemaOf(t.Elem(), named), "minItems": t.Len(), "maxItems": t.Len()}
	case reflect.Map:
		return map[string]any{"type": "object"}
	case reflect.Struct:
	default:
		return map[string]any{}
	}
	name := t.Name()
	ref := map[string]any{"$ref": "#/components/schemas/" + name}
	if _, done := named[name]; done {
		return ref
	}
	properties := map[string]any{}
	var required []string
	named[name] = nil // so that a type that holds itself ends
	for i := range t.NumField() {
		f := t.Field(i)
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if tag == "" || tag == "-" {
			continue
		}
		s := schemaOf(f.Type, named)
		if about := f.Tag.Get("doc"); about != "" {
			s["description"] = about
		}
		properties[tag] = s
		if !strings.Contains(options, "omitempty") {
			required = append(required, tag)
		}
	}
	s := map[string]any{"type": "object", "properties": properties}
	if required != nil {
		s["required"] = required
	}
	named[name] = s
	return ref
}

// operationSchema is one of the operations of JSON Patch (RFC 6902) that are understood; move and copy are not needed on a job.
var operationSchema = map[string]any{"oneOf": []any{
	map[string]any{"type": "object", "required": []string{"op", "path", "value"}, "properties": map[string]any{
		"op": map[string]any{"enum": []string{"add", "replace", "test"}}, "path": pointer, "value": map[string]any{}}},
	map[string]any{"type": "object", "required": []string{"op", "path"},
		"properties": map[string]any{"op": map[string]any{"const": "remove"}, "path": pointer}},
}}

var pointer = map[string]any{"type": "string", "pattern": "^(/.*)?$", "description": "A JSON Pointer (RFC 6901) into the job."}

func (h *Handler) document(w http.ResponseWriter, r *http.Request) {
	b, err := json.MarshalIndent(Document(), "", "  ")
	if err != nil {
		fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	w.Write(b)
}

// Operation is one operation for the readable page.
type Operation struct {
	ID, Method, Path, Summary, About, Scope string
	Params                                  []Param
	Example                                 string // of the request, indented JSON; "" for none
	Answers                                 []string
}

// Param is one parameter.
type Param struct{ In, Name, About, Example string }

// Operations gives every operation for the readable page.
func Operations() (out []Operation) {
	for _, op := range operations {
		o := Operation{ID: op.id, Method: op.method, Path: "/api/v1" + op.path, Summary: op.summary, About: op.about,
			Scope: string(op.scope)}
		for _, p := range op.params {
			o.Params = append(o.Params, Param{p.in, p.name, p.about, p.example})
		}
		if op.body != nil {
			b, err := json.MarshalIndent(op.body, "", "  ")
			if err != nil {
				panic(err) // examples of ours
			}
			o.Example = string(b)
		}
		for _, a := range op.answers {
			o.Answers = append(o.Answers, strconv.Itoa(a.status)+" "+a.about)
		}
		out = append(out, o)
	}
	return out
}
