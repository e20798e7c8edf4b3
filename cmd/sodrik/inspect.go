package main

import (
	"context"
	"flag"
	"runtime"

	"sodrik/internal/core/inspect"
	"sodrik/internal/core/proof"
	"sodrik/internal/readers"
)

// inspectPrint measures a print of a job in a picture, and proves the job with as much ink as was found.
func inspectPrint(args []string) error {
	var job, place string
	var dpi float64
	path, err := parse("inspect", "picture", args, func(f *flag.FlagSet) {
		f.StringVar(&job, "job", "", "job `file` of what was printed")
		f.StringVar(&place, "placement", "", "`name` of the placement that was printed; the first if not given")
		f.Float64Var(&dpi, "dpi", 0, "resolution of a flatbed scan in `dots` an inch; none of a photograph")
	})
	if err != nil {
		return err
	}
	if job == "" {
		return status{exitProblems, "sodrik inspect needs -job FILE, the job that was printed"}
	}
	if err := inspect.ReadDPI(dpi); err != nil {
		return err
	}
	in, err := loadInput(job, place)
	if err != nil {
		return err
	}
	data, err := load(path, 64<<20)
	if err != nil {
		return err
	}
	img, err := inspect.Open(data)
	if err != nil {
		return err
	}
	print, err := inspect.Measure(context.Background(), in, img, dpi)
	if err != nil {
		return inspect.Problem(err)
	}
	readers.AtOnce(runtime.NumCPU())
	forecast, err := proof.Prove(context.Background(), in, readers.Panel(), proof.Ordinary)
	if err != nil {
		return err
	}
	now, err := proof.Prove(context.Background(), print.Printed(in), readers.Panel(), proof.Ordinary)
	if err != nil {
		return err
	}
	return printJSON(struct {
		Says     string         `json:"says"`
		Line     string         `json:"line"`
		Words    []string       `json:"words"`
		Verdict  proof.Verdict  `json:"verdict"`
		Forecast proof.Verdict  `json:"forecast"`
		Print    *inspect.Print `json:"print"`
	}{in.Payload, print.Line(now.Verdict, forecast.Verdict), print.Words(), print.Verdict(now.Verdict), forecast.Verdict, print})
}
