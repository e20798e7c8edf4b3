package leads

import (
	"archive/zip"
	"bytes"
	"path"
	"slices"
	"strings"
)

// runs are endings of files that a machine would run, or that hold a program for a document to run.
var runs = []string{".exe", ".msi", ".bat", ".cmd", ".com", ".scr", ".pif", ".ps1", ".vbs", ".vbe", ".js", ".jse", ".wsf",
	".hta", ".jar", ".apk",
	".lnk", ".url", ".reg", ".dll", ".cpl", ".sh", ".command", ".app", ".docm", ".dotm", ".xlsm", ".xltm", ".xlam", ".xlsb",
	".pptm", ".potm",
	".ppam", ".ppsm", ".html", ".htm", ".xhtml", ".svg", ".swf"}

// maxZipped is how many files a zip that is served holds at most.
const maxZipped = 10_000

// unsafeZip says what of a zip keeps it from being served: that it is none, or that something in it would run; "" for nothing.
// Books hold pages (EPUB 3.3), which are shown by readers of books alone.
func unsafeZip(data []byte, media string) string {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) > maxZipped {
		return "is a ZIP that cannot be opened; pack it again"
	}
	document := media != "application/zip"
	for _, f := range z.File {
		name := strings.ToLower(strings.ReplaceAll(f.Name, `\`, "/"))
		switch base := path.Base(name); {
		case base == "vbaproject.bin", base == "vbadata.xml", strings.HasPrefix(name, "basic/"), strings.HasPrefix(name,
			"scripts/"),
			strings.Contains(name, "/activex/"), strings.Contains(name, "/embeddings/") && strings.HasSuffix(name, ".bin"):
			return "is a document with a program in it (macros); save it without"
		case base == "androidmanifest.xml", base == "manifest.mf":
			return "is a program; give a PDF, a picture, sound, film, or an office document"
		case !document && slices.Contains(runs, path.Ext(name)):
			return "holds " + base + ", which a machine would run; leave it out"
		}
		if document && media != "application/epub+zip" && slices.Contains(runs[:20], path.Ext(name)) {
			return "is a document with a program in it; save it without"
		}
	}
	return ""
}
