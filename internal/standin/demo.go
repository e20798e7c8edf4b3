// Package standin is the made-up world the demonstration lives in: Marrowby Seed House, growers and sellers of seed, bulbs
// and garden sundries.
package standin

import (
	"context"
	"fmt"
	"strings"

	"sodrik/internal/access"
	"sodrik/internal/code"
	"sodrik/internal/core/compose"
	"sodrik/internal/core/proof"
	"sodrik/internal/housestyle"
	"sodrik/internal/link"
	"sodrik/internal/people"
	"sodrik/internal/records"
)

// Workspace is the demonstration's workspace.
const (
	Workspace     = "marrowby"
	WorkspaceName = "Marrowby Seed House"
)

const (
	fair    = "Bulb Fair 2027"
	packets = "Seed packets, spring"
)

// Wi-Fi and places of the show garden, and how to reach the house.
const (
	garden = "Show garden"
	trade  = "Trade reps"
	goods  = "Products 2027"
)

// demoCode is one code of the brand, oldest first.
type demoCode struct {
	campaign, job string
	issue         bool
}

// remarks are what the house notes of some of its codes.
var remarks = map[string]code.Remark{
	"Fair programme": {Note: "Till and door share one print run. Idris has the film.",
		Labels: []string{"spring", "gate"}},
	"Fair, poster with tulips": {Note: "Agreed with the parish council until 28 March.", Labels: []string{"spring"}},
	"Potting shed Wi-Fi":       {Labels: []string{"guests"}},
}

// inPrint says of which codes how many are in print.
var inPrint = map[string]int{"Sweet pea Matucana": 12000, "Potting shed Wi-Fi": 40}

var demoCodes = []demoCode{
	{goods,
		`{"name": "Sweet pea Matucana", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500018", "lot": "A1209", "serial": "10000", "attributes": {"17": "270930"}},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 216, "light": "indoor", "use": "till", "readable": true}]}`, true},
	{goods,
		`{"name": "Nasturtium Alba", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500025", "lot": "A1214", "serial": "10031", "attributes": {"17": "270930"}}, "look": {"ink": "#12352b"},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 216, "light": "indoor", "use": "till"}]}`, false},
	{goods,
		`{"name": "Foxglove Lanterne seed", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500032", "lot": "B0302", "serial": "10052", "attributes": {"17": "280331"}},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 216, "light": "indoor", "use": "till"}]}`, true},
	{goods,
		`{"name": "Broad bean Aldous seed", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500049", "lot": "B0311", "serial": "10077", "attributes": {"17": "271231"}},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 216, "light": "indoor", "use": "till"}]}`, false},
	{goods,
		`{"name": "Tulip Queen of Night, 25 bulbs", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500056", "lot": "T2610", "serial": "10148", "attributes": {"15": "271031"}},
		"placements": [{"name": "label", "medium": "seed-packet", "substrate": "coated", "width_mm": 30, "distance_mm": 270, "light": "indoor", "use": "till", "readable": true}]}`, false},
	{goods,
		`{"name": "Crocus Vanguard, 50 bulbs", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500063", "lot": "T2611", "serial": "10203", "attributes": {"15": "271031"}},
		"placements": [{"name": "label", "medium": "seed-packet", "substrate": "coated", "width_mm": 30, "distance_mm": 270, "light": "indoor", "use": "till"}]}`, false},
	{goods,
		`{"name": "Potting grit, 5 kg", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500070", "lot": "G7", "serial": "10260", "attributes": {"11": "261001", "3103": "005000"}},
		"placements": [{"name": "label", "medium": "seed-packet", "substrate": "coated", "width_mm": 30, "distance_mm": 270, "light": "indoor", "use": "till", "readable": true}]}`, false},
	{goods,
		`{"name": "Twine, green", "content": {"kind": "gs1link", "domain": "id.marrowby.example", "gtin": "9521234500087", "lot": "S44", "serial": "10311", "attributes": {"11": "260901"}},
		"placements": [{"name": "label", "medium": "seed-packet", "substrate": "coated", "width_mm": 30, "distance_mm": 270, "light": "indoor", "use": "till"}]}`, false},
	{goods,
		`{"name": "Carton of sweet peas", "content": {"kind": "gs1data", "elements": "(02)09521234500018(37)48(00)095212345000000018"},
		"placements": [{"name": "carton", "medium": "carton", "substrate": "kraft", "width_mm": 30, "distance_mm": 300, "light": "indoor", "use": "distribution", "readable": true}]}`, false},
	{garden,
		`{"name": "Potting shed Wi-Fi", "content": {"kind": "wifi", "ssid": "Marrowby Potting Shed", "security": "wpa", "password": "sow;thin;water"}, "look": {"ink": "#3d3b1f", "paper": "#f6f0e2", "frame": {"shape": "label", "text": "Join our Wi-Fi", "font": "bitter"}},
		"placements": [{"name": "bench", "medium": "table-tent", "substrate": "uncoated", "width_mm": 50, "distance_mm": 400, "light": "indoor"}]}`, true},
	{garden,
		`{"name": "Way to the show garden", "content": {"kind": "place", "lat": 52.0871, "lon": -1.9432, "label": "Show garden gate"}, "look": {"ink": "#1f3a5a"},
		"placements": [{"name": "leaflet", "medium": "leaflet", "substrate": "uncoated", "width_mm": 28, "distance_mm": 280, "light": "indoor"}]}`, false},
	{garden,
		`{"name": "Before you prune", "content": {"kind": "text", "text": "Look first. Cut above a bud that faces out.\nTake dead wood, then crossing wood, then stop.\nClean the blade between two roses."}, "look": {"ink": "#5b1f33"},
		"placements": [{"name": "rose border", "medium": "plant-tag", "substrate": "film", "width_mm": 40, "distance_mm": 350, "light": "outdoor"}]}`, false},
	{trade,
		`{"name": "Tamsin Ashdown, contact", "content": {"kind": "contact", "given": "Tamsin", "family": "Ashdown", "organisation": "Marrowby Seed House", "title": "Brand lead",
		"phones": [{"type": "mobile", "number": "+441134960124"}], "emails": [{"address": "tamsin@marrowby.example"}], "urls": ["https://marrowby.example/trade"]},
		"placements": [{"name": "rep card", "medium": "business-card", "substrate": "coated", "width_mm": 38, "distance_mm": 200, "light": "indoor"}]}`, true},
	{trade,
		`{"name": "Order desk", "content": {"kind": "email", "to": ["orders@marrowby.example"], "subject": "Bulb order", "body": "Account number:\nVariety and quantity:\n"}, "look": {"ink": "#12352b"},
		"placements": [{"name": "price list", "medium": "leaflet", "substrate": "uncoated", "width_mm": 36, "distance_mm": 300, "light": "indoor", "keyword": "LIST"},
			{"name": "carton", "medium": "carton", "substrate": "kraft", "width_mm": 60, "distance_mm": 500, "light": "indoor", "keyword": "BOX"}]}`, false},
	{trade,
		`{"name": "Wholesale invoice 2027-114", "content": {"kind": "sepa", "name": "Marrowby Seed House", "iban": "DE37999999990123456789", "amount": "1249.50", "reference": "RF18539007547034"},
		"placements": [{"name": "invoice", "medium": "leaflet", "substrate": "uncoated", "width_mm": 40, "distance_mm": 250, "light": "indoor"}]}`, true},
	{trade,
		`{"name": "Swiss invoice 2027-115", "content": {"kind": "swiss", "iban": "CH6131999000012345678", "creditor": {"name": "Marrowby Samen AG", "street": "Seestrasse", "house": "7", "postcode": "8000", "city": "Zürich", "country": "CH"},
		"amount": "1949.75", "currency": "CHF", "debtor": {"name": "Gärtnerei Amsel", "street": "Marktgasse", "house": "28", "postcode": "9400", "city": "Rorschach", "country": "CH"}, "reference_type": "QRR", "reference": "210000000003139471430009017", "message": "Tulips, order 2027-115"},
		"placements": [{"name": "bill", "medium": "leaflet", "substrate": "uncoated", "width_mm": 51.041, "distance_mm": 200, "light": "indoor"}]}`, false},
	{trade,
		`{"name": "Market stall", "content": {"kind": "emv", "accounts": [{"id": "26", "guid": "com.examplebank.pay", "values": {"01": "MARROWBY27"}}], "mcc": "5261", "currency": "702", "country": "SG", "merchant": "Marrowby Seed House", "city": "Singapore", "tip": {"kind": "prompt"}, "additional": {"store": "Orchid Road"}},
		"placements": [{"name": "counter", "medium": "table-tent", "substrate": "coated", "width_mm": 70, "distance_mm": 400, "light": "indoor"}]}`, false},
	{trade, `{"name": "Order line", "content": {"kind": "phone", "number": "+441134960100"},
		"placements": [{"name": "carton", "medium": "carton", "substrate": "kraft", "width_mm": 45, "distance_mm": 450, "light": "indoor"}]}`, false},
	{packets,
		`{"name": "Growers' line", "content": {"kind": "sms", "number": "+441134960123", "body": "When do I sow?"}, "look": {"ink": "#12352b"},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 220, "light": "indoor", "keyword": "PACKET"},
			{"name": "seed rack", "medium": "shelf-label", "substrate": "coated", "width_mm": 40, "distance_mm": 400, "light": "indoor", "keyword": "RACK"}]}`, false},
	{packets,
		`{"name": "Sowing guide", "content": {"kind": "url", "url": "https://marrowby.example/guide"}, "look": {"ink": "#12352b", "mark": {"source": "icon:sprout", "width": 0.2}},
		"placements": [{"name": "leaflet", "medium": "leaflet", "substrate": "uncoated", "width_mm": 30, "distance_mm": 280, "light": "indoor"}]}`, true},
	{packets,
		`{"name": "Price list for the trade", "content": {"kind": "url", "url": "http://marrowby.example/trade/prices-2027.pdf", "purpose": "file"}, "look": {"ink": "#1f3a5a"},
		"placements": [{"name": "rep card", "medium": "business-card", "substrate": "coated", "width_mm": 22, "distance_mm": 200, "light": "indoor"}]}`, false},
	{packets,
		`{"name": "Foxglove Lanterne", "content": {"kind": "url", "url": "https://marrowby.example/seed/foxglove-lanterne"}, "look": {"ink": "#efd9e1", "paper": "#f6f0e2"},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 220, "light": "indoor"}]}`, false},
	{packets,
		`{"name": "Broad bean Aldous", "content": {"kind": "url", "url": "https://marrowby.example/seed/broad-bean-aldous"}, "look": {"ink": "#5a2d0c", "paper": "#f6f0e2"},
		"placements": [{"name": "packet back", "medium": "seed-packet", "substrate": "coated", "width_mm": 24, "distance_mm": 220, "light": "indoor"},
			{"name": "shelf", "medium": "shelf-label", "substrate": "thermal", "width_mm": 24, "distance_mm": 240, "light": "indoor"}]}`, true},
	{fair,
		`{"name": "How to prune a rose", "content": {"kind": "url", "url": "https://marrowby.example/watch/prune-a-rose", "purpose": "video"}, "look": {"ink": "#5b1f33", "modules": {"join": "none", "motif": "leaf"}, "eyes": {"ring": {"corners": [0.6, 0.6, 0.6, 0.6]}, "core": {"corners": [0.6, 0.6, 0.6, 0.6]}}}}`, false},
	{fair,
		`{"name": "Bulb fair, date", "content": {"kind": "event", "title": "Marrowby Bulb Fair", "start": "2027-03-20T10:00", "end": "2027-03-20T16:00", "timezone": "Europe/London", "location": "Show garden, Marrowby", "alarm_minutes": 1440}, "look": {"ink": "#5a2d0c"},
		"placements": [{"name": "invitation", "medium": "leaflet", "substrate": "uncoated", "width_mm": 60, "distance_mm": 300, "light": "indoor"}]}`, true},
	{fair,
		`{"name": "Map to the show garden", "content": {"kind": "url", "url": "https://maps.example/?q=52.0871,-1.9432", "purpose": "map"}, "look": {"ink": "#1f3a5a"},
		"placements": [{"name": "lane sign", "medium": "poster-a4", "substrate": "film", "width_mm": 90, "distance_mm": 900, "light": "outdoor"}]}`, true},
	{fair,
		`{"name": "Fair programme", "content": {"kind": "url", "url": "https://marrowby.example/fair/programme"}, "look": {"ink": {"kind": "linear", "angle": 45, "stops": [{"at": 0, "colour": "#5a2d0c"}, {"at": 1, "colour": "#a33f22"}]}, "modules": {"corner": 0.8}, "eyes": {"ring": {"corners": [0.7, 0.7, 0.2, 0.7]}, "core": {"corners": [0.7, 0.7, 0.7, 0.7]}, "facing": "inward"}, "mark": {"source": "asset:marrowby", "width": 0.24, "clear": "disc", "pad": 0.5}},
		"placements": [{"name": "till", "medium": "table-tent", "substrate": "uncoated", "width_mm": 48, "distance_mm": 400, "light": "indoor"},
			{"name": "door", "medium": "poster-a4", "substrate": "coated", "width_mm": 70, "distance_mm": 600, "light": "indoor"},
			{"name": "bag", "medium": "tote-bag", "substrate": "textile", "width_mm": 84, "distance_mm": 600, "light": "outdoor"}]}`, true},
	{fair,
		`{"name": "Fair, poster with tulips", "content": {"kind": "url", "url": "https://marrowby.example/fair", "tags": {"source": "board"}}, "look": {"ink": "#12352b", "paper": "#f6f0e2"},
		"placements": [{"name": "village board", "medium": "poster-a2", "substrate": "uncoated", "width_mm": 96, "distance_mm": 900, "light": "outdoor", "artwork": {"source": "asset:poster", "x_mm": 28, "y_mm": 474.5},
			"words": {"headline": "See the programme", "help": "Point your phone's camera at the code", "address": "marrowby.example/fair", "font": "alegreya"}}]}`, false},
	{fair,
		`{"name": "Fair, gate poster", "content": {"kind": "url", "url": "https://marrowby.example/fair", "tags": {"source": "gate"}}, "look": {"ink": "#12352b"},
		"placements": [{"name": "gate", "medium": "poster-a2", "substrate": "uncoated", "width_mm": 160, "distance_mm": 1500, "light": "outdoor"},
			{"name": "till card", "medium": "table-tent", "substrate": "uncoated", "width_mm": 30, "distance_mm": 350, "light": "indoor"}]}`, true},
}

// Somebody is one of the demonstration's people.
type Somebody struct {
	Email, Name, Job string
	Role             people.Role
}

// People of Marrowby Seed House. Tamsin looks after the show garden's workspace too.
var People = []Somebody{
	{"tamsin@marrowby.example", "Tamsin Ashdown", "brand", people.Owner},
	{"idris@marrowby.example", "Idris Penn", "campaigns", people.Editor},
	{"wren@marrowby.example", "Wren Okafor", "trade", people.Viewer},
	{"juno@fenwick-print.example", "Juno Marsh", "Fenwick Print", people.Printer},
}

// Garden is the second workspace of the demonstration.
const (
	Garden     = "garden"
	GardenName = "Marrowby Show Garden"
)

// LoadPeople makes the demonstration's people and their second workspace, once.
func LoadPeople(ctx context.Context, s *code.Store, p *people.Store) error {
	made, err := s.EnsureWorkspace(ctx, Garden, GardenName)
	if err != nil || !made {
		return err
	}
	for i, who := range People {
		person, err := p.Register(ctx, who.Email, who.Name, "")
		if err == nil {
			err = p.Join(ctx, Workspace, person.ID, who.Role)
		}
		if err == nil && i == 0 {
			err = p.Join(ctx, Garden, person.ID, people.Owner)
		}
		if err != nil {
			return err
		}
	}
	m,
		problems := compose.Parse(
		[]byte(
			`{"name": "Garden map", "content": {"kind": "url", "url": "https://marrowby.example/garden/map"}, "look": {"ink": "#3d3b1f"},
		"placements": [{"name": "gate sign", "medium": "poster-a4", "substrate": "film", "width_mm": 90, "distance_mm": 900, "light": "outdoor"}]}`,
		), nil)
	if len(problems) > 0 {
		return fmt.Errorf("demonstration: %w", problems)
	}
	_, err = s.Create(ctx, access.OfProgram(Garden, People[0].Name), m, "")
	return err
}

// seedMark is the house's own: a seed with its first two leaves, on a disc.
const seedMark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><circle cx="50" cy="50" r="50" fill="#12352b"/><path fill="#f6f0e2" d="M50 58C38 58 34 66 34 74C34 83 41 88 50 88S66 83 66 74C66 66 62 58 50 58Z"/><path fill="none" stroke="#f6f0e2" stroke-width="5" stroke-linecap="round" d="M50 60C50 50 50 46 50 38"/><path fill="#8fc3a0" d="M50 40C50 24 38 14 18 16C18 34 30 44 50 40Z"/><path fill="#e9a820" d="M50 46C50 32 60 22 82 24C82 40 70 50 50 46Z"/></svg>`

// Loader is who loads the demonstration: the program, in the name of its first person.
func Loader() access.Actor { return access.OfProgram(Workspace, People[0].Name) }

// Load fills the demonstration's workspace once; a workspace that is there already is left as it is.
func Load(ctx context.Context, links *link.Store) error {
	s := links.Codes
	made, err := s.EnsureWorkspace(ctx, Workspace, WorkspaceName)
	if err != nil || !made {
		return err
	}
	mark, err := s.Upload(ctx, Loader(), "marrowby-seed.svg", []byte(seedMark))
	if err != nil {
		return err
	}
	sheet, err := uploadPoster(ctx, s, Loader())
	if err != nil {
		return err
	}
	sources := strings.NewReplacer("asset:marrowby", mark.Source, "asset:poster", sheet.Source)
	for _, d := range demoCodes {
		m, problems := compose.Parse([]byte(sources.Replace(d.job)), s.Assets(ctx, Loader()))
		if len(problems) > 0 {
			return fmt.Errorf("demonstration: %w", problems)
		}
		id, err := s.Create(ctx, Loader(), m, d.campaign)
		if err == nil && d.issue {
			_, err = s.Issue(ctx, Loader(), id)
		}
		if n := inPrint[m.Job.Name]; err == nil && n > 0 {
			err = records.Of(s).SayPrinted(ctx, Loader(), id, 1,
				code.Printing{On: s.Now().AddDate(0, 0, -20), Printer: "Okafor Print", Quantity: n})
		}
		if r, ok := remarks[m.Job.Name]; err == nil && ok {
			err = s.SetRemark(ctx, Loader(), id, r)
		}
		if err != nil {
			return err
		}
	}
	if err := loadLinks(ctx, links); err != nil {
		return err
	}
	if err := loadHouse(ctx, s, &housestyle.Store{DB: s.DB, Now: s.Now, Changed: links.Dress}, mark.Source); err != nil {
		return err
	}
	return loadBatch(ctx, s)
}

// Prove proves every code of the workspace at its first placement, so that the ledger has something to say. It stops at
// the first error or when ctx ends.
func Prove(ctx context.Context, s *code.Store) error {
	for after := (code.Cursor{}); ; {
		codes, next, err := s.Listed(ctx, Loader(), code.Active, "", after, 20)
		if err != nil {
			return err
		}
		for _, c := range codes {
			for i := min(0, len(c.Rendition.Job.Placements)-1); i < len(c.Rendition.Job.Placements); i++ {
				if _, err := s.Prove(ctx, Loader(), c.Rendition, i, proof.Ordinary); err != nil {
					return err
				}
				if i < 0 {
					break
				}
			}
		}
		if next == nil {
			return nil
		}
		after = *next
	}
}
