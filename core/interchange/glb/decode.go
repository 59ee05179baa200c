package glb

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
	"myriapod/core/textsize"
)

// decode reads the file with all its buffers and checks every size it claims against what is there; held is the bytes of all.
func decode(data []byte, beside model.Beside) (document *gltf.Document, held int, err error) {
	text, chunk, err := split(data)
	if err != nil {
		return nil, 0, err
	}
	if err := textsize.Check(text, mostText); err != nil {
		return nil, 0, err
	}
	if err := checkVersion(text); err != nil {
		return nil, 0, err
	}
	document = new(gltf.Document)
	if err := json.Unmarshal(text, document); err != nil {
		return nil, 0, fmt.Errorf("the file is damaged or not glTF: %w", err)
	}
	shorten(document)
	placeLibrary(document)
	for _, extension := range document.ExtensionsRequired {
		if !understood(extension) {
			return nil, 0, fmt.Errorf("the file needs the extension %.100s, which is not read; export it without", extension)
		}
	}
	held = len(data)
	for i, buffer := range document.Buffers {
		more, err := fill(buffer, i, chunk, beside)
		if err != nil {
			return nil, 0, fmt.Errorf("buffer %d %w", i, err)
		}
		held += more
	}
	return document, held, checkViews(document, held)
}

// placeLibrary gives the meshes of a file that has no nodes (a library of meshes) a node each.
func placeLibrary(document *gltf.Document) {
	if len(document.Nodes) > 0 {
		return
	}
	document.Scene, document.Scenes = nil, nil
	for i := range document.Meshes {
		document.Nodes = append(document.Nodes, &gltf.Node{Mesh: gltf.Index(i)})
	}
}

// split takes a binary file apart into its text and the chunk of bytes that comes with it.
func split(data []byte) (text, chunk []byte, err error) {
	if !bytes.HasPrefix(data, []byte("glTF")) {
		return bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), nil, nil
	}
	if len(data) < 20 {
		return nil, nil, errors.New("the file is cut short; export or copy it again")
	}
	if version := binary.LittleEndian.Uint32(data[4:]); version == 1 {
		return nil, nil, errOld
	}
	total := int64(binary.LittleEndian.Uint32(data[8:]))
	if total > int64(len(data)) || total < 20 {
		return nil, nil, fmt.Errorf("the file says it has %d bytes and has %d; export or copy it again", total, len(data))
	}
	data = data[:total] // what follows is not the model's
	for at := 12; at < len(data); {
		if len(data)-at < 8 {
			return nil, nil, errors.New("the file ends inside a chunk; export or copy it again")
		}
		length, kind := int64(binary.LittleEndian.Uint32(data[at:])), string(data[at+4:at+8])
		if length > int64(len(data)-at-8) {
			return nil, nil, fmt.Errorf("a chunk says it has %d bytes and %d are left; export or copy the file again", length, len(data)-at-8)
		}
		held := data[at+8 : at+8+int(length)]
		switch {
		case at == 12 && kind != "JSON":
			return nil, nil, errors.New("the file does not begin with its text; export it again")
		case at == 12:
			text = bytes.TrimRight(held, "\x00")
		case kind == "BIN\x00" && chunk == nil:
			chunk = held
		}
		at += 8 + int(length)
	}
	return text, chunk, nil
}

var errOld = errors.New("this is glTF 1.0, whose form is another than that of 2.0; export it as glTF 2.0, or convert it")

// checkVersion reads no more than the version, since the form of the rest goes by it.
func checkVersion(text []byte) error {
	var head struct {
		Asset struct {
			Version    any `json:"version"`
			MinVersion any `json:"minVersion"`
		} `json:"asset"`
	}
	if err := json.Unmarshal(text, &head); err != nil {
		var wrong *json.UnmarshalTypeError
		if !errors.As(err, &wrong) {
			return fmt.Errorf("the file is damaged or not glTF: %w", err)
		}
	}
	version, least := fmt.Sprint(head.Asset.Version), fmt.Sprint(head.Asset.MinVersion)
	switch {
	case strings.HasPrefix(version, "1") || version == "0.8":
		return errOld
	case !strings.HasPrefix(version, "2."):
		return fmt.Errorf("glTF version %.20q is not read; export it as 2.0", version)
	case head.Asset.MinVersion != nil && least != "2.0":
		return fmt.Errorf("the file needs a reader of glTF %.20q; export it as 2.0", least)
	}
	return nil
}

// understood tells whether a file may require an extension: what it says is read, or has to do with nothing but looks.
func understood(extension string) bool {
	return slices.Contains([]string{"KHR_mesh_quantization", "KHR_lights_punctual", "KHR_xmp_json_ld", "KHR_node_visibility", "EXT_lights_image_based"}, extension) ||
		strings.HasPrefix(extension, "KHR_materials_") || strings.HasPrefix(extension, "KHR_texture_") || strings.HasPrefix(extension, "EXT_texture_")
}

// noteExtensions tells of what the file says by extensions that are not read, and that has to do with surfaces or motion.
func (r *reader) noteExtensions() {
	for _, extension := range r.document.ExtensionsUsed {
		if !understood(extension) {
			r.note("What the file says by the extension %.100s is left out.", extension)
		}
	}
}

// fill gives a buffer its bytes: the chunk of a binary file, those written in its address, or a file beside. more is how many came from there.
func fill(buffer *gltf.Buffer, index int, chunk []byte, beside model.Beside) (more int, err error) {
	if buffer == nil {
		return 0, errors.New("is empty")
	}
	switch {
	case buffer.URI == "" && index == 0:
		buffer.Data = chunk
	case buffer.URI == "":
		// bytes that some extension would give; a view of them is refused
	case strings.HasPrefix(buffer.URI, "data:"):
		if buffer.Data, err = written(buffer.URI); err != nil {
			return 0, fmt.Errorf("is written in a way that is not read (%w); export the model as one .glb file", err)
		}
	default:
		if buffer.Data, err = beside(buffer.URI); err != nil {
			return 0, fmt.Errorf("lies in another file: %w", err)
		}
		more = len(buffer.Data)
	}
	buffer.URI = ""
	if buffer.Data == nil && index > 0 {
		buffer.ByteLength = 0
	}
	if buffer.ByteLength < 0 || buffer.ByteLength > len(buffer.Data) {
		return 0, fmt.Errorf("says it has %d bytes and has %d", buffer.ByteLength, len(buffer.Data))
	}
	buffer.Data = buffer.Data[:buffer.ByteLength:buffer.ByteLength]
	return more, nil
}

// written returns the bytes that a data address holds (RFC 2397), whatever kind it says they are of.
func written(address string) ([]byte, error) {
	head, body, ok := strings.Cut(strings.TrimPrefix(address, "data:"), ",")
	if !ok {
		return nil, errors.New("there is no comma in its address")
	}
	plain, err := url.PathUnescape(body)
	if err != nil {
		return nil, err
	}
	if !strings.HasSuffix(head, ";base64") {
		return []byte(plain), nil
	}
	plain = strings.TrimRight(strings.Join(strings.Fields(plain), ""), "=")
	return base64.RawStdEncoding.DecodeString(plain)
}

func checkViews(document *gltf.Document, held int) error {
	for i, view := range document.BufferViews {
		if view == nil || view.Buffer < 0 || view.Buffer >= len(document.Buffers) {
			return fmt.Errorf("buffer view %d points at no buffer", i)
		}
		if view.ByteLength < 0 || view.ByteStride < 0 || !within(view.ByteOffset, view.ByteLength, 1, 1, len(document.Buffers[view.Buffer].Data)) {
			return fmt.Errorf("buffer view %d reaches past its buffer", i)
		}
	}
	for i, accessor := range document.Accessors {
		if err := checkAccessor(document, accessor, held); err != nil {
			return fmt.Errorf("accessor %d %w", i, err)
		}
	}
	return nil
}
