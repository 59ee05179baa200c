// Package interchange reads models that riggers bring: it tells the formats apart and hands the work to the one that
// knows it.
package interchange

import (
	"bytes"
	"fmt"

	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/model"
	"myriapod/core/interchange/obj"
)

// Read reads a model from the bytes of an OBJ, GLB or self-contained glTF file. The name, with its ending, decides only
// where the content does not.
func Read(name string, data []byte) (*model.Model, error) {
	if len(data) > model.MaxBytes {
		return nil, fmt.Errorf("%s: the file is larger than %d MB; split it or thin it out", name, model.MaxBytes>>20)
	}
	if len(bytes.TrimSpace(data)) == 0 {
		return nil, fmt.Errorf("%s: the file is empty", name)
	}
	read := func(data []byte) (*model.Model, error) {
		parts, err := obj.Read(data)
		return &model.Model{Parts: parts}, err
	}
	if bytes.HasPrefix(data, []byte("glTF")) || bytes.HasPrefix(bytes.TrimSpace(data), []byte("{")) {
		read = glb.Read
	}
	var whole *model.Model
	err := model.Guard(func() (err error) {
		if whole, err = read(data); err == nil {
			err = model.Check(whole)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return whole, nil
}
