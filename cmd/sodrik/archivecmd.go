package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"sodrik/internal/access"
	"sodrik/internal/archive"
)

func init() {
	commands = append(commands,
		command{"export", "FILE", "write everything of a workspace to a ZIP file of open formats", archived("export")},
		command{"import", "FILE", "read such a file into an empty workspace of this server", archived("import")})
}

// archived writes or reads an archive of a workspace.
func archived(act string) func([]string) error {
	return func(args []string) error {
		f := flag.NewFlagSet("sodrik "+act, flag.ContinueOnError)
		workspace := f.String("workspace", "main", "`workspace` that is written, or read into")
		f.Usage = func() {
			fmt.Fprintf(f.Output(),
				"sodrik %s FILE works on the database that SODRIK_DATABASE names, with SODRIK_KEY. What codes say is in "+
					"the clear in the file.\n\nFlags\n", act)
			f.PrintDefaults()
		}
		switch err := f.Parse(args); {
		case errors.Is(err, flag.ErrHelp):
			return status{exitOK, ""}
		case err != nil:
			return status{exitProblems, ""}
		}
		name, err := file(act, f.Args())
		if err != nil {
			return err
		}
		ctx := context.Background()
		made := "" // only where something arrives
		if act == "import" {
			made = *workspace
		}
		d, app, err := atHand(ctx, made)
		if err != nil {
			return err
		}
		defer d.Close()
		run := map[string]func(context.Context, *archive.Store, access.Actor, string) (archive.About, error){"export": exported,
			"import": imported}[act]
		about, err := run(ctx, &archive.Store{Codes: app.Codes, Links: app.Links}, access.OfProgram(*workspace,
			"command line"), name)
		if err != nil {
			return err
		}
		if act == "export" {
			fmt.Printf("Written to %s: %s. What codes say is in the clear in it.\n", name, about.Words())
			return nil
		}
		fmt.Printf("%s is here now: %s. Invite its people anew, prove the hosts of its links again and point them at this server, "+
			"and resume its webhooks.\n",
			about.Name, about.Words())
		return nil
	}
}

// exported writes a file whole or not at all.
func exported(ctx context.Context, s *archive.Store, actor access.Actor, name string) (about archive.About, err error) {
	f, err := os.CreateTemp(filepath.Dir(name), ".sodrik-export-")
	if err != nil {
		return about, status{exitFailed, err.Error()}
	}
	defer os.Remove(f.Name())
	about, err = s.Export(ctx, actor, f)
	if err = errors.Join(err, f.Close()); err != nil {
		return about, err
	}
	return about, os.Rename(f.Name(), name)
}

func imported(ctx context.Context, s *archive.Store, actor access.Actor, name string) (about archive.About, err error) {
	f, err := os.Open(name)
	if errors.Is(err, fs.ErrNotExist) {
		return about, status{exitProblems, "There is no file " + name + "."}
	}
	if err != nil {
		return about, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return about, err
	}
	return s.Import(ctx, actor, f, info.Size())
}
