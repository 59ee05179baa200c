// Package files finds the files of a model: one alone, several brought together, a folder, or what a zip holds. No path leads out of what was
// brought, and what it comes to is counted before it is unpacked.
package files

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"net/url"
	"path"
	"slices"
	"strings"
)

// MostBytes is what the files of one model may come to, unpacked, and MostFiles how many there may be.
const (
	MostBytes = 256 << 20
	MostFiles = 20_000
)

// Files are files by their paths, with "/" between folders.
type Files interface {
	// List returns the paths in order.
	List() ([]string, error)
	// Read returns what a file holds; an error of fs.ErrNotExist when there is none.
	Read(path string) ([]byte, error)
}

// Set is files that are in memory.
type Set map[string][]byte

// List implements Files.
func (s Set) List() ([]string, error) { return slices.Sorted(maps.Keys(s)), nil }

// Read implements Files.
func (s Set) Read(path string) ([]byte, error) {
	data, ok := s[path]
	if !ok {
		return nil, fs.ErrNotExist
	}
	return data, nil
}

// Under returns the files of a file system, such as a folder's. It reads what is asked for and no more.
func Under(system fs.FS) Files { return under{system} }

type under struct{ system fs.FS }

func (u under) List() (list []string, err error) {
	err = fs.WalkDir(u.system, ".", func(path string, entry fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if entry.Type().IsRegular() {
			list = append(list, path)
		}
		if len(list) > MostFiles {
			return tooMany()
		}
		return nil
	})
	return list, err
}

func (u under) Read(path string) ([]byte, error) {
	file, err := u.system.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, fmt.Errorf("%s is no file", path)
	}
	return upTo(file, path, info.Size())
}

func tooMany() error {
	return fmt.Errorf("there are more than %d files; bring only those of the model", MostFiles)
}

func tooLarge(name string) error {
	return fmt.Errorf("%s comes to more than %d MB; split it or thin it out", name, MostBytes>>20)
}

// upTo reads a file that says it has so many bytes, and refuses one that has more than any may.
func upTo(from io.Reader, name string, says int64) ([]byte, error) {
	if says > MostBytes {
		return nil, tooLarge(name)
	}
	data, err := io.ReadAll(io.LimitReader(from, MostBytes+1))
	if err == nil && len(data) > MostBytes {
		err = tooLarge(name)
	}
	return data, err
}

// IsZip tells whether the bytes are of a zip.
func IsZip(data []byte) bool {
	return bytes.HasPrefix(data, []byte("PK\x03\x04")) || bytes.HasPrefix(data, []byte("PK\x05\x06"))
}

// Unzip unpacks a zip. How much it says to hold is summed before anything is unpacked; a path or link that leads outside, and a locked file, is refused.
func Unzip(data []byte) (Set, error) {
	archive, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
		return nil, fmt.Errorf("the zip is damaged (%w); pack it again", err)
	}
	if len(archive.File) > MostFiles {
		return nil, tooMany()
	}
	sum := uint64(0)
	for _, file := range archive.File {
		if err := checkEntry(file); err != nil {
			return nil, err
		}
		if file.UncompressedSize64 > MostBytes || sum+file.UncompressedSize64 > MostBytes {
			return nil, tooLarge("what the zip holds")
		}
		sum += file.UncompressedSize64
	}
	set, left := Set{}, int64(MostBytes)
	for _, file := range archive.File {
		if file.FileInfo().IsDir() || beside(file.Name) {
			continue
		}
		held, err := unpack(file, left)
		if err != nil {
			return nil, fmt.Errorf("%s in the zip cannot be unpacked (%w); pack it again", file.Name, err)
		}
		left -= int64(len(held))
		set[file.Name] = held
	}
	return set, nil
}

// checkEntry refuses what must not be unpacked.
func checkEntry(file *zip.File) error {
	name := strings.TrimSuffix(file.Name, "/")
	switch {
	case !fs.ValidPath(name) || strings.ContainsAny(name, "\\:\x00"):
		return fmt.Errorf("the zip has a path that leads outside of it, %.200q; pack it anew from one folder", file.Name)
	case file.Mode()&fs.ModeSymlink != 0:
		return fmt.Errorf("%s in the zip is a link; pack the file itself", file.Name)
	case !file.FileInfo().IsDir() && !file.Mode().IsRegular():
		return fmt.Errorf("%s in the zip is no plain file; leave it out", file.Name)
	case file.Flags&1 != 0:
		return fmt.Errorf("%s in the zip is locked by a password; pack it without", file.Name)
	}
	return nil
}

// beside tells what systems put into zips beside the files.
func beside(name string) bool {
	return strings.HasPrefix(name, "__MACOSX/") || strings.HasPrefix(path.Base(name), "._")
}

// unpack unpacks a file that may come to at most left bytes, whatever it says of itself.
func unpack(file *zip.File, left int64) ([]byte, error) {
	reader, err := file.Open()
	if err != nil {
		return nil, err
	}
	defer reader.Close()
	data, err := io.ReadAll(io.LimitReader(reader, left+1))
	if err == nil && int64(len(data)) > left {
		return nil, errors.New("it holds more than it says")
	}
	return data, err
}

// endings are those of model files, the likelier first.
var endings = [][]string{{".gltf", ".glb"}, {".obj"}}

// Main finds the model among the files: the one nearest the top that is a glTF or, without such, an OBJ. Of several, none is guessed.
func Main(f Files) (string, error) {
	list, err := f.List()
	if err != nil {
		return "", err
	}
	for _, kinds := range endings {
		var found []string
		depth := 0
		for _, name := range list {
			if !slices.Contains(kinds, strings.ToLower(path.Ext(name))) {
				continue
			}
			switch at := strings.Count(name, "/"); {
			case len(found) == 0 || at < depth:
				found, depth = []string{name}, at
			case at == depth:
				found = append(found, name)
			}
		}
		if len(found) == 1 {
			return found[0], nil
		}
		if len(found) > 1 {
			return "", fmt.Errorf("there are %d models, %s; bring one of them", len(found), strings.Join(found[:min(len(found), 5)], ", "))
		}
	}
	return "", errors.New("there is no model among the files; bring an OBJ, GLB or glTF file")
}

// Beside reads the file that a model at main refers to by a relative address. Letters count as alike in either case where no file has the very name.
func Beside(f Files, main, address string) ([]byte, error) {
	name := address
	if plain, err := url.PathUnescape(address); err == nil {
		name = plain
	}
	name = strings.ReplaceAll(name, `\`, "/")
	where := path.Join(path.Dir(main), name)
	if strings.HasPrefix(name, "/") || strings.Contains(name, ":") || !fs.ValidPath(where) {
		return nil, fmt.Errorf("%s names the file %.200q, which lies outside of its folder; put it beside the model and name it from there", path.Base(main), address)
	}
	data, err := f.Read(where)
	if !errors.Is(err, fs.ErrNotExist) {
		return data, err
	}
	if other := alike(f, where); other != "" {
		return f.Read(other)
	}
	return nil, &Missing{Main: path.Base(main), Name: name}
}

func alike(f Files, wanted string) string {
	list, err := f.List()
	if err != nil {
		return ""
	}
	at := slices.IndexFunc(list, func(name string) bool { return strings.EqualFold(name, wanted) })
	if at < 0 {
		return ""
	}
	return list[at]
}

// Missing tells of a file that a model names and that was not brought with it.
type Missing struct{ Main, Name string }

func (m *Missing) Error() string {
	return fmt.Sprintf("%s needs the file %.200s, which was not brought; bring both together, as several files, a folder or a zip", m.Main, m.Name)
}
