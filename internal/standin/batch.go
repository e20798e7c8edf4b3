package standin

import (
	"context"
	"fmt"
	"io"
	"strings"

	"sodrik/internal/batches"
	"sodrik/internal/code"
	"sodrik/internal/core/table"
)

// beds are what grows in the show garden, each with a label of its own; one address was written in haste.
var beds = []struct{ name, bed string }{
	{"Leek Long Barn", "1"}, {"Kale Old Fence", "1"}, {"Broad bean Early Gate", "1"}, {"Beetroot Dusk", "1"},
	{"Pea Hedge Lane", "2"}, {"Carrot First Frost", "2"}, {"Parsnip Wintering", "2"}, {"Radish Small Bell", "2"},
	{"Foxglove Lanterne", "3"}, {"Poppy Marrow Red", "3"}, {"Cornflower Mill Pond", "3"}, {"Sweet pea Aunt Ida", "3"},
	{"Nasturtium Porch", "3"}, {"Marigold Lamp", "4"}, {"Cosmos Chalk", "4"}, {"Larkspur Ferry", "4"},
	{"Tulip Late Supper", "5"}, {"Tulip Paper Boat", "5"}, {"Daffodil Bright Yard", "5"}, {"Snowdrop North Wall", "5"},
	{"Allium Drumstick Row", "5"}, {"Fritillary Chequer", "5"}, {"Thyme Silver Step", "6"}, {"Sage Three Sisters", "6"},
	{"Rosemary Gatehouse", "6"}, {"Mint Kitchen Door", "6"}, {"Chives Fine Rain", "6"}, {"Lovage", "6"},
	{"Sorrel Sharp Leaf", "6"}, {"Rhubarb Early Bell", "7"}, {"Gooseberry Green Hill", "7"}, {"Blackcurrant Dark Barn", "7"},
	{"Strawberry May Lane", "7"}, {"Apple Russet Gate", "8"}, {"Pear Long Shadow", "8"}, {"Plum Old Orchard", "8"},
}

// loadBatch makes the labels of the show garden.
func loadBatch(ctx context.Context, s *code.Store) error {
	var b strings.Builder
	b.WriteString("Label;Plant;Bed;Link\n")
	for i, one := range beds {
		path := strings.ReplaceAll(strings.ToLower(one.name), " ", "-")
		link := "https://marrowby.example/garden/" + path
		if one.name == "Sorrel Sharp Leaf" {
			link = "marrowby,example/garden/" + path
		}
		fmt.Fprintf(&b, "G%03d;%s;%s;%s\n", i+1, one.name, one.bed, link)
	}
	rows, err := table.Open(ctx, strings.NewReader(b.String()), table.Options{})
	if err != nil {
		return err
	}
	many := &batches.Store{Codes: s}
	id, err := many.Create(ctx, Loader(), batches.Ask{Name: "Plant labels, show garden", Campaign: "Show garden", Rows: rows,
		Source: "show-garden.csv", Look: "garden-sign"})
	if err != nil {
		return err
	}
	for _, set := range [][2]string{{"/key", "Label"}, {"/set/name", "{Plant} · bed {Bed}"}, {"/line", "{Plant}"},
		{"/file", "{Label} {Plant}"}} {
		if err := many.Set(ctx, Loader(), id, set[0], set[1]); err != nil {
			return err
		}
	}
	if err := printed(ctx, many, id); err != nil {
		return err
	}
	_, err = s.DB.Pool.Exec(ctx, `DELETE FROM batch_undos WHERE workspace = $1 AND batch = $2`, Workspace, id) // nobody did that
	return err
}

// printed takes the labels to the printer.
func printed(ctx context.Context, many *batches.Store, id string) error {
	run, err := many.Start(ctx, Loader(), id, batches.AsZip)
	if err != nil {
		return err
	}
	if err := many.Take(ctx, Loader(), run, true, func(*batches.Run, string) io.Writer { return io.Discard }); err != nil {
		return err
	}
	return many.SayPrinted(ctx, Loader(), id, run,
		code.Printing{On: many.Codes.Now(), Printer: "Okafor Print", Quantity: 3 * len(beds)})
}
