// Package interchange reads models that riggers bring: it tells the formats apart and hands the work to the one that
// knows it.
package interchange

import (
	"bytes"
	"fmt"
	"path"

	"myriapod/core/interchange/files"
	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/model"
	"myriapod/core/interchange/obj"
)

// Read reads a model from the bytes of one file: OBJ, GLB, glTF, or a zip with one of them and what belongs to it. The name, with its ending, decides
// only where the content does not.
func Read(name string, data []byte) (*model.Model, error) {
	return ReadFrom(files.Set{path.Base(name): data}, path.Base(name))
}

// ReadFrom reads the model at main with the files that it names beside it. Without a main it is the one model among the files.
func ReadFrom(all files.Files, main string) (whole *model.Model, err error) {
	if main == "" {
		if main, err = files.Main(all); err != nil {
			return nil, err
		}
	}
	data, err := all.Read(main)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", main, err)
	}
	err = model.Guard(func() (err error) {
		if whole, err = read(all, main, data); err == nil {
			err = model.Check(whole)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path.Base(main), err)
	}
	return whole, nil
}

func read(all files.Files, main string, data []byte) (*model.Model, error) {
	if len(data) > model.MaxBytes {
		return nil, fmt.Errorf("the file is larger than %d MB; split it or thin it out", model.MaxBytes>>20)
	}
	if len(bytes.TrimSpace(data)) == 0 {
		return nil, fmt.Errorf("the file is empty")
	}
	if files.IsZip(data) {
		unpacked, err := files.Unzip(data)
		if err != nil {
			return nil, err
		}
		inner, err := files.Main(unpacked)
		if err != nil {
			return nil, err
		}
		if files.IsZip(unpacked[inner]) {
			return nil, fmt.Errorf("%s in it is a zip again; unpack that one", inner)
		}
		return read(unpacked, inner, unpacked[inner])
	}
	left := model.MaxBytes
	beside := func(address string) ([]byte, error) {
		found, err := files.Beside(all, main, address)
		if left -= len(found); left < 0 {
			return nil, fmt.Errorf("the files beside it come to more than %d MB; split the model or thin it out", model.MaxBytes>>20)
		}
		return found, err
	}
	text := bytes.TrimSpace(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")))
	if bytes.HasPrefix(data, []byte("glTF")) || bytes.HasPrefix(text, []byte("{")) {
		return glb.Read(data, beside)
	}
	return obj.Read(data, beside)
}
