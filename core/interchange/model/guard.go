package model

import "fmt"

// Guard runs an importer. Whatever it meets that it does not expect becomes an error: a file from outside must never end the program.
func Guard(read func() error) (err error) {
	defer func() {
		if met := recover(); met != nil {
			err = fmt.Errorf("the file is damaged in a way that is not foreseen (%.200s); export it again", fmt.Sprint(met))
		}
	}()
	return read()
}
