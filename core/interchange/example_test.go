package interchange_test

import (
	"fmt"

	"myriapod/core/interchange"
	"myriapod/core/interchange/files"
)

// A model is read with the files that it names beside it.
func ExampleReadFrom() {
	brought := files.Set{
		"house/house.obj": []byte("mtllib paint.mtl\no wall\nusemtl red\nv 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n"),
		"house/paint.mtl": []byte("newmtl red\nKd 0.8 0.2 0.2\n"),
	}
	model, err := interchange.ReadFrom(brought, "")
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(model.Parts[0].Name, model.Parts[0].Colour)
	delete(brought, "house/paint.mtl")
	model, _ = interchange.ReadFrom(brought, "")
	fmt.Println(model.Notes[0])
	// Output:
	// wall #cc3333
	// The materials are left out: house.obj needs the file paint.mtl, which was not brought; bring both together, as several files, a folder or a zip.
}
