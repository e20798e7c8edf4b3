package code_test

import (
	"errors"
	"reflect"
	"testing"

	"sodrik/internal/access"
	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/notices"
	"sodrik/internal/records"
	"sodrik/internal/scans"
	"sodrik/internal/webhooks"
)

// rights says what each use case that is handed an actor needs. Every one must stand here.
var rights = map[string]access.Right{
	"Artworks": access.Look, "Out": access.Look, "ByPayload": access.Look, "Campaigns": access.Look, "Get": access.Look,
	"History":    access.Look,
	"InCampaign": access.Look, "Products": access.Look,
	"InColour": access.Look, "Ledger": access.Look, "Smallest": access.Look, "CountOf": access.Look, "Listed": access.Look,
	"Printed": access.Look, "SinceIssue": access.Look, "Uploads": access.Look,
	"Wearers": access.Look, "WearersIn": access.Look, "Wearing": access.Look,
	"At": access.Look, "IssuedList": access.Files, "MinWidth": access.Make, "Prove": access.Make,
	"ArtworkPage": access.Change, "Before": access.Change, "ChangeLookIn": access.Change, "Create": access.Change,
	"CreateIn": access.Change, "Grouped": access.Look, "Summaries": access.Look, "TryPatch": access.Change,
	"Duplicate": access.Change,
	"Edit":      access.Change, "Issue": access.Change, "Patch": access.Change, "PatchAt": access.Change,
	"PatchIn": access.Change, "Redo": access.Change, "Refresh": access.Change, "Return": access.Change,
	"SetCampaign": access.Change,
	"Try":         access.Change, "Undo": access.Change, "Upload": access.Change, "UploadArtwork": access.Change,
	"UploadFace":   access.Change,
	"UploadWithin": access.Change, "Wear": access.Change, "WearIn": access.Change, "SetStates": access.Change,
	"MoveAll": access.Change, "DressAll": access.Change, "TakeBack": access.Change, "SetRemark": access.Change,
}

// kept are those of the records.
var kept = map[string]access.Right{
	"Record": access.Files, "Trials": access.Look, "Afterwards": access.Look, "BeginMail": access.Change,
	"HidePictures": access.Change,
	"NoteTrial":    access.Change, "ShowPicture": access.Change, "SayPrinted": access.Change, "TakePrintBack": access.Change,
	"CheckPrint": access.Change, "Checks": access.Look,
}

// linked are those of dynamic codes.
var linked = map[string]access.Right{
	"Of":        access.Look,
	"Live":      access.Look,
	"Pack":      access.Manage,
	"Rehearsed": access.Manage,
	"ByAddress": access.Look,
	"Heading":   access.Look,
	"Turn":      access.Change,
	"TurnBack":  access.Change,
	"Own":       access.Change,
	"Word":      access.Change,
	"Duplicate": access.Change,
	"Edit":      access.Change,
	"Set":       access.Change,
	"Discard":   access.Change,
	"MakeLive":  access.Change,
	"GoBack":    access.Change,
	"Rest":      access.Change,
	"Led":       access.Look, "Placed": access.Look, "GoalKey": access.Manage, "MakeGoalKey": access.Manage,
	"Registered": access.Manage,
	"SwapOf":     access.Change,
	"Hosts":      access.Look,
	"Base":       access.Look,
	"AddHost":    access.Manage,
	"AskHost":    access.Manage,
	"ChooseHost": access.Manage,
	"RemoveHost": access.Manage,
	"Keep":       access.Change,
	"Open":       access.Change,
	"Trial":      access.Change, "LeadToFile": access.Change, "Moves": access.Manage, "Hang": access.Change,
	"Hangings": access.Look, "HangingsOf": access.Look, "Since": access.Look, "Keeper": access.Change,
	"MoveIn":  access.Manage,
	"Allowed": access.Look,
	"Allow":   access.Manage,
	"SwapAll": access.Change,
	"Create":  access.Change, "CopyRoutes": access.Change, "DropRoute": access.Change, "EditRoute": access.Change,
	"FixRoute":  access.Change,
	"MoveRoute": access.Change, "StartApp": access.Change, "SwitchRoute": access.Change, "Others": access.Look,
	"SwapBack": access.Change,
}

// house are those of the house style.
var house = map[string]access.Right{"Get": access.Files, "Change": access.Change, "History": access.Look, "Before": access.Look}

// who are the actors that are tried.
func who() map[string]access.Actor {
	out := map[string]access.Actor{"nobody": {}, "somebody of no workspace": {Kind: access.Person, ID: "a", Name: "A",
		Role: access.Owner}}
	for _, role := range []access.Role{access.Owner, access.Editor, access.Viewer, access.Printer, "gardener"} {
		out[string(role)] = access.Actor{Kind: access.Person, ID: "a", Name: "A", Workspace: "w", Role: role}
	}
	out["a token that makes"] = access.Actor{Kind: access.Token, ID: "t", Workspace: "w", Role: access.Owner,
		Only: []access.Right{access.Make}}
	out["a token that reads"] = access.Actor{Kind: access.Token, ID: "t", Workspace: "w", Role: access.Owner,
		Only: []access.Right{access.Look, access.Files}}
	out["a token of a printer"] = access.Actor{Kind: access.Token, ID: "t", Workspace: "w", Role: access.Printer,
		Only: []access.Right{access.Change, access.Look, access.Files}}
	return out
}

// TestUseCasesCheck tries every use case that is handed an actor, as each of who: without the right it is forbidden, before
// anything else is looked at.
func TestUseCasesCheck(t *testing.T) {
	for what, c := range map[string]struct {
		store  any
		rights map[string]access.Right
	}{"codes": {&code.Store{}, rights}, "records": {&records.Records{}, kept}, "house style": {&housestyle.Store{}, house},
		"links": {&link.Store{}, linked},
		"scans": {&scans.Store{}, map[string]access.Right{"OfCode": access.Look, "OfCodes": access.Look, "Daily": access.Look,
			"All": access.Look, "Events": access.Look, "Hours": access.Look, "Keep": access.Manage, "Keeping": access.Look,
			"Led": access.Look, "Parts": access.Look, "Reached": access.Look, "Share": access.Change, "Shares": access.Look,
			"Totals": access.Look, "Withdraw": access.Change, "Latest": access.Look, "Askers": access.Look, "CSV": access.Look,
			"Since": access.Look, "Named": access.Look,
			"Reports": access.Manage}},
		"batches": {&batches.Store{}, map[string]access.Right{"Create": access.Change, "List": access.Look, "Get": access.Look,
			"Rows": access.Look, "Row": access.Look, "Mend": access.Change, "Drop": access.Change, "Set": access.Change,
			"Retire": access.Change, "ToDesk": access.Change, "Update": access.Change, "Start": access.Change, "Fit": access.Look,
			"Stop": access.Change, "Continue": access.Change, "Runs": access.Files, "Run": access.Files, "Take": access.Files,
			"Drawn": access.Look, "Sheet": access.Look, "Sheets": access.Look, "Open": access.Change, "Lead": access.Change,
			"Waiting": access.Look, "Undo": access.Change, "Taken": access.Look, "Out": access.Look, "SayPrinted": access.Change,
			"TakePrintBack": access.Change,
			"MakeLive":      access.Change}},
		"webhooks": {&webhooks.Store{}, map[string]access.Right{
			"Add": access.Manage, "Again": access.Manage, "Calls": access.Manage, "List": access.Manage, "Pause": access.Manage,
			"Remove": access.Manage, "Renew": access.Manage, "Resume": access.Manage, "Try": access.Manage,
		}},
		"notices": {&notices.Store{}, map[string]access.Right{
			"Choices": access.Look, "Choose": access.Manage, "List": access.Look,
			"PutAway": access.Change}}} {
		t.Run(what, func(t *testing.T) {
			v := reflect.ValueOf(c.store)
			tried := 0
			for i := range v.NumMethod() {
				name, method := v.Type().Method(i).Name, v.Method(i)
				at := -1
				for k := range method.Type().NumIn() {
					if method.Type().In(k) == reflect.TypeFor[access.Actor]() {
						at = k
					}
				}
				if at < 0 || name == "Assets" { // which gives nothing instead
					continue
				}
				need, ok := c.rights[name]
				if !ok {
					t.Errorf("%s: %s has no expectation", what, name)
					continue
				}
				tried++
				for as, actor := range who() {
					if got := forbidden(t, method, at, actor); got == actor.May(need) {
						t.Errorf("%s: %s as %s: forbidden is %v", what, name, as, got)
					}
				}
			}
			if tried != len(c.rights) {
				t.Errorf("%s: %d of %d use cases were tried", what, tried, len(c.rights))
			}
		})
	}
}

// forbidden calls a use case with an actor and nothing else, and says whether it was refused for that.
func forbidden(t *testing.T, method reflect.Value, at int, actor access.Actor) (refused bool) {
	t.Helper()
	defer func() { recover() }() // with the right, it goes on to what is not there
	var args []reflect.Value
	n := method.Type().NumIn()
	if method.Type().IsVariadic() {
		n--
	}
	for k := range n {
		args = append(args, reflect.Zero(method.Type().In(k)))
	}
	args[0], args[at] = reflect.ValueOf(t.Context()), reflect.ValueOf(actor)
	out := method.Call(args)
	err, _ := out[len(out)-1].Interface().(error)
	return errors.Is(err, access.ErrForbidden)
}

// TestRoles: what each role may do, as the guide to people says.
func TestRoles(t *testing.T) {
	for _, c := range []struct {
		role access.Role
		may  []access.Right
	}{
		{access.Owner, []access.Right{access.Files, access.Look, access.Change, access.Manage, access.Make}},
		{access.Editor, []access.Right{access.Files, access.Look, access.Change, access.Make}},
		{access.Viewer, []access.Right{access.Files, access.Look, access.Make}}, {access.Printer, []access.Right{access.Files}},
		{"gardener", nil}, {"", nil},
	} {
		t.Run(string(c.role), func(t *testing.T) {
			for right := access.Files; right <= access.Make; right++ {
				want := false
				for _, have := range c.may {
					want = want || have == right
				}
				if c.role.May(right) != want {
					t.Errorf("right %d: %v", right, !want)
				}
			}
		})
	}
}
