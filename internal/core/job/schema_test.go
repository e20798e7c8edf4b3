package job

import (
	"bytes"
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

var update = flag.Bool("update", false, "write the published schema and the reference of fields anew")

// published is the schema that users find.
const published = "../../../docs/job.schema.json"

// TestSchema holds the published schema against what is read: a standard validator and Parse agree on every sample.
func TestSchema(t *testing.T) {
	text, err := Schema()
	if err != nil {
		t.Fatal(err)
	}
	if *update {
		if err := os.WriteFile(published, text, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if kept, err := os.ReadFile(published); err != nil || !bytes.Equal(kept, text) {
		t.Errorf("the schema has changed; go test ./internal/core/job -run TestSchema -update writes it anew (%v)", err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("job.json", doc); err != nil {
		t.Fatal(err)
	}
	schema, err := c.Compile("job.json")
	if err != nil {
		t.Fatal(err)
	}
	const ok = `"content":{"kind":"url","url":"m.example"}`
	for _, sample := range []string{
		`{` + ok + `}`, `{"version":1,"name":"x",` + ok + `}`, `{"version":2,` + ok + `}`, `{}`, `[]`, `{` + ok + `,"extra":1}`,
		`{"content":{"kind":"dynamic","link":"go.m.example/FA1R"},"lead":{"to":{"kind":"url","url":"m.example"}}}`,
		`{"content":{"kind":"dynamic","link":"go.m.example/FA1R"},"lead":{}}`,
		`{"content":{"kind":"dynamic","link":"go.m.example/FA1R"},"lead":"m.example"}`,
		`{"content":{"kind":"url"}}`, `{"content":{"kind":"url","url":""}}`,
		`{"content":{"kind":"url","url":"m.example","tags":{"source":"a"}}}`,
		`{"content":{"kind":"url","url":"m.example","tags":{"sauce":"a"}}}`,
		`{` + ok + `,"symbol":{"level":"Q","boost":false,"mask":7,"quiet_zone":0,"kanji":true,"min_version":3}}`,
		`{` + ok + `,"symbol":{"mask":8}}`, `{` + ok + `,"symbol":{"level":"X"}}`, `{` + ok + `,"symbol":{"quiet_zone":41}}`,
		`{` + ok + `,"look":{"ink":"#123","paper":"none"}}`, `{` + ok + `,"look":{"ink":"pine"}}`,
		`{` + ok + `,"look":{"paper":7}}`,
		`{` + ok + `,"look":{"ink":{"kind":"linear","angle":45,"stops":[{"at":0,"colour":"#123"},{"at":1,"colour":"#321"}]}}}`,
		`{` + ok + `,"look":{"ink":{"kind":"linear","stops":[{"at":0,"colour":"#123"}]}}}`,
		`{` + ok + `,"look":{"ink":{"kind":"round","stops":[{"colour":"#123"},{"colour":"#321"}]}}}`,
		`{` + ok +
			`,"look":{"mark":{"source":"icon:sprout","width":0.3,"x":0.4,"clear":"outline","pad":0.5,"crop":"round","ground":"cut","ink":"#123","reserve":0.5}}}`, `{` + ok + `,"look":{"mark":{"width":0.3}}}`, `{` + ok + `,"look":{"mark":{"source":"logo.svg"}}}`, `{` + ok + `,"look":{"mark":{"source":"icon:leaf","width":0.6}}}`, `{` + ok + `,"look":{"mark":{"source":"icon:leaf","clear":"star"}}}`,
		`{` + ok + `,"look":{"ink":{"cmyk":[80,20,60,40]},"paper":{"cmyk":[0,0,5,0]}}}`,
		`{` + ok + `,"look":{"ink":{"cmyk":[80,20,60]}}}`, `{` + ok + `,"look":{"ink":{"cmyk":[80,20,60,101]}}}`,
		`{` + ok + `,"look":{"modules":{"join":"rows","corner":0.5}}}`,
		`{` + ok + `,"look":{"modules":{"join":"none","motif":"leaf","scale":0.8}}}`,
		`{` + ok + `,"look":{"modules":{"join":"some"}}}`, `{` + ok + `,"look":{"modules":{"corner":2}}}`,
		`{` + ok + `,"look":{"modules":{"motif":"gnome"}}}`,
		`{` + ok + `,"look":{"modules":{"join":"none","motif":"custom","path":"M0 0H1V1H0Z"}}}`,
		`{` + ok + `,"look":{"modules":{"motif":"custom"}}}`, `{` + ok + `,"look":{"modules":{"path":"M0 0H1V1H0Z"}}}`,
		`{` + ok + `,"look":{"modules":{"scale":0.4}}}`,
		`{` + ok +
			`,"look":{"eyes":{"ring":{"corners":[1,0,1,0],"texture":"modules","ink":"#123"},"core":{"motif":"disc","scale":1.1},"facing":"inward","alignment":"eyes","each":[{},{"core":{"motif":"leaf"}}]}}}`, `{` + ok + `,"look":{"eyes":{"ring":{"corners":[1,0,1]}}}}`, `{` + ok + `,"look":{"eyes":{"ring":{"corners":[1,0,1,2]}}}}`, `{` + ok + `,"look":{"eyes":{"core":{"scale":2}}}}`, `{` + ok + `,"look":{"eyes":{"each":[{},{},{},{}]}}}`, `{` + ok + `,"look":{"eyes":{"facing":"up"}}}`,
		`{` + ok +
			`,"look":{"from":"shipped/pebble","ink":{"screen":"#12352b","cmyk":[84,40,70,62],"spot":"Marrowby Pine","style":"pine"}}}`, `{` + ok + `,"look":{"ink":{"screen":"#12352b","style":"pine"}}}`, `{` + ok + `,"look":{"ink":{"spot":"Pine","screen":"#123"}}}`, `{` + ok + `,"look":{"ink":{}}}`,
		`{` + ok +
			`,"style":{"colours":[{"key":"pine","name":"Pine","value":"#12352b"}],"rules":{"contrast":0.5}},"look":{"ink":{"style":"pine"}}}`, `{` + ok + `,"style":{"colors":[]}}`, `{` + ok + `,"style":{"marks":[{"name":"a","source":"icon:leaf","clear":2}],"typefaces":["bitter"],"looks":[{"name":"a","look":{"ink":"#123"}}],"locked":true}}`,
		`{` + ok + `,"look":{"caption":{"text":"marrowby.example/fair","side":"above","font":"bitter"}}}`,
		`{` + ok + `,"look":{"caption":{}}}`, `{` + ok + `,"look":{"caption":{"text":"a","side":"left"}}}`,
		`{` + ok + `,"look":{"caption":{"text":"` + strings.Repeat("a", 61) + `"}}}`,
		`{` + ok + `,"look":{"outline":"round","backdrop":{"source":"icon:leaf","mode":"halftone","strength":0.8}}}`,
		`{` + ok + `,"look":{"outline":"oval"}}`, `{` + ok + `,"look":{"backdrop":{"mode":"under"}}}`,
		`{` + ok + `,"look":{"backdrop":{"source":"icon:leaf","strength":2}}}`,
		`{` + ok + `,"look":{"backdrop":{"source":"leaf.png"}}}`,
		`{` + ok + `,"placements":[]}`, `{` + ok + `,"placements":[{"name":"a"}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"slide"}]}`, `{` + ok + `,"placements":[{"name":"a","width_mm":4}]}`,
		`{` + ok +
			`,"placements":[{"name":"a","width_mm":5,"distance_mm":30,"light":"dim","substrate":"kraft","background":"#000"}]}`,
		`{` + ok + `,"placements":[{"name":"a","width_mm":5,"light":"moon"}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"bottle","radius_mm":0,"moving":false}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"own:herb-label","width_mm":20}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"own:herb-label"}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"own:Herb","width_mm":20}]}`,
		`{` + ok +
			`,"placements":[{"name":"a","medium":"flyer","artwork":{"width_mm":105,"height_mm":148,"colour":"#123","x_mm":10,"y_mm":-3,"panel":"#ffffff"},"words":{"headline":"Sow","help":"b","address":"c","side":"above","size":2,"font":"bitter","ink":"#123"}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","artwork":{"width_mm":105}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","artwork":{"width_mm":0.5,"height_mm":148}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","artwork":{"source":"flyer.pdf"}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","words":{"side":"under"}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","words":{"size":9}}]}`,
		`{` + ok + `,"placements":[{"name":"a","medium":"flyer","words":{"headline":"` + strings.Repeat("a", 61) + `"}}]}`,
		`{` + ok +
			`,"style":{"media":[{"key":"own:herb-label","name":"Herb label","group":"Your own","width_mm":20,"size_mm":[40,60]}],"file_names":"{name} {width}"}}`, `{` + ok + `,"style":{"media":[{"key":"own:herb-label","name":"Herb label"}]}}`,
		`{` + ok +
			`,"style":{"links":[{"key":"chat","name":"Chat","address":"https://chat.marrowby.example/{number}?text={text}"}],"rules":{"grade":"C"}}}`, `{` + ok + `,"style":{"links":[{"name":"Chat","address":"https://chat.marrowby.example/"}]}}`, `{` + ok + `,"style":{"links":[{"name":"Chat"}]}}`,
		`{` + ok + `,"style":{"links":[{"name":"Chat","address":"https://{item}.example/"}]}}`,
		`{` + ok + `,"style":{"rules":{"grade":"F"}}}`,
		`{"content":{"kind":"fax"}}`, `{"content":{}}`,
		`{"content":{"kind":"url","url":"m.example","purpose":"video","capitals":true}}`,
		`{"content":{"kind":"url","url":"m.example","purpose":"x"}}`, `{"content":{"kind":"url","url":"m.example","ssid":"a"}}`,
		`{"content":{"kind":"text","text":"a"}}`, `{"content":{"kind":"text","text":""}}`, `{"content":{"kind":"text","text":7}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"open"}}`, `{"content":{"kind":"wifi","ssid":"a","security":"wpa"}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"wpa","password":"12345678","hidden":true}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"open","password":"12345678"}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"eap","eap":{"method":"PEAP","phase2":"GTC"}}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"eap"}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"eap","eap":{"method":"X"}}}`,
		`{"content":{"kind":"wifi","ssid":"a","security":"wpa","password":"12345678","eap":{"method":"PEAP"}}}`,
		`{"content":{"kind":"contact","given":"a"}}`, `{"content":{"kind":"contact"}}`,
		`{"content":{"kind":"contact","organisation":"a","format":"vcard4","birthday":"--03-20","phones":[{"number":"+441134960123","type":"fax"}],"emails":[{"address":"a@m.example"}],"urls":["m.example"],"socials":[{"service":"s","url":"m.example"}],"address":{"city":"c"}}}`,
		`{"content":{"kind":"contact","given":"a","birthday":"20.3.84"}}`, `{"content":{"kind":"contact","given":"a\nb"}}`,
		`{"content":{"kind":"contact","given":"a","phones":[{"number":"+441134960123","type":"pager"}]}}`,
		`{"content":{"kind":"contact","given":"a","socials":[{"url":"m.example"}]}}`,
		`{"content":{"kind":"phone","number":"+441134960123"}}`,
		`{"content":{"kind":"phone","number":"0113 496 0123","region":"GB"}}`, `{"content":{"kind":"phone"}}`,
		`{"content":{"kind":"sms","number":"+441134960123","body":"a","form":"sms"}}`,
		`{"content":{"kind":"sms","number":"+441134960123","form":"mms"}}`,
		`{"content":{"kind":"email","to":["a@m.example"],"subject":"s","body":"b\nc"}}`, `{"content":{"kind":"email","to":[]}}`,
		`{"content":{"kind":"email","to":["a@m.example"],"subject":"s\nt"}}`,
		`{"content":{"kind":"event","title":"a","start":"2027-03-20T10:00","timezone":"Europe/London","alarm_minutes":0,"repeat":{"every":"week","count":3}}}`, `{"content":{"kind":"event","title":"a","start":"2027-03-20","all_day":true}}`, `{"content":{"kind":"event","title":"a","start":"2027-03-20"}}`,
		`{"content":{"kind":"event","title":"a","start":"2027-03-20T10:00","all_day":true}}`,
		`{"content":{"kind":"event","title":"a","start":"2027-03-20","all_day":true,"timezone":"Europe/London"}}`,
		`{"content":{"kind":"event","title":"a","start":"2027-03-20T10:00","repeat":{"count":3}}}`,
		`{"content":{"kind":"event","start":"2027-03-20T10:00"}}`,
		`{"content":{"kind":"event","title":"a","start":"2027-03-20T10:00","alarm_minutes":-5}}`,
		`{"content":{"kind":"place","lat":52,"lon":-1.9}}`, `{"content":{"kind":"place","lat":91,"lon":0}}`,
		`{"content":{"kind":"place","lat":1}}`,
		`{"content":{"kind":"place","lat":1,"lon":1,"form":"link","pattern":"https://maps.example/?q={lat},{lon}"}}`,
		`{"content":{"kind":"place","lat":1,"lon":1,"form":"link"}}`,
		`{"content":{"kind":"place","lat":1,"lon":1,"pattern":"https://maps.example/?q={lat},{lon}"}}`,
		`{"content":{"kind":"place","lat":1,"lon":1,"form":"link","pattern":"https://maps.example/"}}`,
		`{"content":{"kind":"sepa","name":"a","iban":"DE37999999990123456789","amount":"12.50","reference":"RF18539007547034","version":2}}`, `{"content":{"kind":"sepa","name":"a"}}`, `{"content":{"kind":"sepa","name":"a","iban":"DE37999999990123456789","reference":"RF18539007547034","text":"b"}}`, `{"content":{"kind":"sepa","name":"a","iban":"DE37999999990123456789","amount":"1,5"}}`, `{"content":{"kind":"sepa","name":"a","iban":"DE37999999990123456789","version":1}}`,
		`{"content":{"kind":"swiss","iban":"CH8599999000012345678","currency":"CHF","creditor":{"name":"a","postcode":"1","city":"b","country":"CH"},"amount":"5"}}`, `{"content":{"kind":"swiss","iban":"CH8599999000012345678","currency":"USD","creditor":{"name":"a","postcode":"1","city":"b","country":"CH"}}}`, `{"content":{"kind":"swiss","iban":"CH8599999000012345678","currency":"CHF","creditor":{"name":"a","city":"b","country":"CH"}}}`, `{"content":{"kind":"swiss","iban":"CH8599999000012345678","currency":"CHF"}}`,
		`{"content":{"kind":"emv","accounts":[{"id":"26","guid":"g","values":{"01":"x"}}],"mcc":"5261","currency":"702","country":"SG","merchant":"m","city":"c","tip":{"kind":"prompt"},"additional":{"bill":"7"}}}`, `{"content":{"kind":"emv","accounts":[],"mcc":"5261","currency":"702","country":"SG","merchant":"m","city":"c"}}`, `{"content":{"kind":"emv","accounts":[{"id":"26","guid":"g"}],"mcc":"52","currency":"702","country":"SG","merchant":"m","city":"c"}}`, `{"content":{"kind":"emv","accounts":[{"id":"26","guid":"g"}],"mcc":"5261","currency":"702","country":"SG","merchant":"m","city":"c","additional":{"bil":"7"}}}`,
		`{"content":{"kind":"upi","payee":"marrowby@examplebank","name":"a","amount":"1"}}`,
		`{"content":{"kind":"upi","payee":"marrowby","name":"a"}}`,
		`{"content":{"kind":"payto","target":"iban","account":"DE37999999990123456789"}}`,
		`{"content":{"kind":"payto","target":"cash","account":"x"}}`,
		`{"content":{"kind":"bitcoin","address":"1BvBMSEYstWetqTFn5Au4m4GFg7xJaNVN2","amount":"0.5"}}`,
		`{"content":{"kind":"bitcoin","address":"x"}}`,
		`{"content":{"kind":"gs1link","gtin":"9521234500018","lot":"A","attributes":{"17":"270331"}}}`,
		`{"content":{"kind":"gs1link"}}`, `{"content":{"kind":"gs1link","gtin":"x"}}`,
		`{"content":{"kind":"gs1link","elements":{"414":"9521234500018"}}}`,
		`{"content":{"kind":"gs1link","gtin":"9521234500018","elements":{"414":"9521234500018"}}}`,
		`{"content":{"kind":"gs1link","gtin":"9521234500018","attributes":{"lot":"A"}}}`,
		`{"content":{"kind":"gs1data","elements":"(01)09521234500018"}}`, `{"content":{"kind":"gs1data"}}`,
		`{"content":{"kind":"gs1link","gtin":"9521234500018"},"placements":[{"name":"a","width_mm":40,"use":"till","readable":true}]}`, `{"content":{"kind":"gs1link","gtin":"9521234500018"},"placements":[{"name":"a","width_mm":40,"use":"attic"}]}`,
		`{"content":{"kind":"sms","number":"+441134960123"},"placements":[{"name":"a","width_mm":40,"keyword":"GATE"}]}`,
		`{"content":{"kind":"sms","number":"+441134960123"},"placements":[{"name":"a","width_mm":40,"keyword":"GATE GATE GATE GATE GATE GATE"}]}`,
		`{` + ok + `,"output":{"quality":101}}`, `{` + ok +
			`,"output":{"colour":"uncoated","bleed_mm":3,"marks":true,"overprint":true}}`,
		`{` + ok + `,"output":{"colour":"cmyk"}}`, `{` + ok + `,"output":{"bleed_mm":30}}`,
		`{` + ok + `,"output":{"reduction_mm":0.04}}`, `{` + ok + `,"output":{"reduction_mm":0.6}}`,
		`{` + ok + `,"output":{"reduction_mm":-1}}`, `{` + ok + `,"output":{"quality":80,"printer_dpi":300,"thinner_dots":1}}`,
		`{` + ok + `,"output":{"colour":"rgb","dpi":300,"bleed_mm":0,"marks":false}}`, `{` + ok + `,"output":{"dpi":1}}`,
		`{` + ok + `,"output":{"marks":1}}`,
	} {
		t.Run(sample, func(t *testing.T) {
			v, err := jsonschema.UnmarshalJSON(bytes.NewReader([]byte(sample)))
			if err != nil {
				t.Fatal(err)
			}
			_, problems := Parse([]byte(sample))
			if bySchema := schema.Validate(v); (bySchema == nil) != (len(problems) == 0) {
				t.Errorf("%s: the schema says %v, reading says %v", sample, bySchema, problems)
			}
		})
	}
}
