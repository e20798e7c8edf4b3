package forms

import (
	"io"
	"net/http"
)

// beside is what a form may hold besides its file.
const beside = 1 << 20

// Bound lets a form with a file of most bytes in, and no more. It comes before anything is read of the form.
func Bound(w http.ResponseWriter, r *http.Request, most int64) {
	r.Body = http.MaxBytesReader(w, r.Body, most+beside)
}

// File reads the file of a form, and one byte more than most of one that is larger, so that whoever takes it in sees that it
// is. The error is http.ErrMissingFile where none was chosen, a *http.MaxBytesError where the form is larger than Bound lets
// in, or of the connection.
func File(r *http.Request, most int64) (name string, data []byte, err error) {
	file, header, err := r.FormFile("file")
	if err != nil {
		return "", nil, err
	}
	defer file.Close()
	data, err = io.ReadAll(io.LimitReader(file, most+1))
	return header.Filename, data, err
}
