package leads

import (
	"archive/zip"
	"bytes"
	"path"
	"slices"
	"strings"
)

// programs are endings of files that a machine runs; macros those of documents with a program in them; pages those of files
// that a browser runs scripts of.
var (
	programs = []string{".exe", ".msi", ".bat", ".cmd", ".com", ".scr", ".pif", ".ps1", ".vbs", ".vbe", ".js", ".jse", ".wsf",
		".hta",
		".jar", ".apk", ".lnk", ".url", ".reg", ".dll", ".cpl", ".sh", ".command", ".app"}
	macros = []string{".docm", ".dotm", ".xlsm", ".xltm", ".xlam", ".xlsb", ".pptm", ".potm", ".ppam", ".ppsm"}
	pages  = []string{".html", ".htm", ".xhtml", ".svg", ".swf"}
)

// maxZipped is how many files a zip that is served holds at most.
const maxZipped = 10_000

// unsafeZip says why a zip of a media type is not served, as the rest of a sentence: it cannot be opened, or something in it
// would run; "" for nothing. Books hold pages with scripts (EPUB 3.3), which only readers of books show.
func unsafeZip(data []byte, media string) string {
	const book, plain = "application/epub+zip", "application/zip"
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) > maxZipped {
		return "is a ZIP that cannot be opened; pack it again"
	}
	for _, f := range z.File {
		name := strings.ToLower(strings.ReplaceAll(f.Name, `\`, "/"))
		base, ending := path.Base(name), path.Ext(name)
		switch {
		case base == "vbaproject.bin", base == "vbadata.xml", strings.Contains(name, "/activex/"),
			media != plain && (strings.HasPrefix(name, "basic/") || strings.HasPrefix(name, "scripts/")): // OpenDocument
			return "is a document with a program in it (macros); save it without"
		case base == "androidmanifest.xml", base == "manifest.mf":
			return "is a program; give a PDF, a picture, sound, film, or an office document"
		case media != book && slices.Contains(programs, ending),
			media == plain && (slices.Contains(macros, ending) || slices.Contains(pages, ending)):
			return "holds " + base + ", which a machine would run; leave it out"
		}
	}
	return ""
}
