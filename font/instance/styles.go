package instance

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"math"
	"slices"
	"strings"

	"sparecrate/font/rename"
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// styling writes what tells of styles: the axes that stay, their names and those of the face.
type styling struct{ *pinner }

// axes writes fvar, avar and STAT for what is left.
func (p styling) axes() error {
	p.put(table.TagAvar, nil)
	if b := p.font.Table(table.TagSTAT); len(b) > 0 {
		out, err := p.styleTable(b)
		if err != nil {
			return err
		}
		p.put(table.TagSTAT, out)
	}
	if p.static {
		p.put(table.TagFvar, nil)
		return nil
	}
	out := &table.Fvar{}
	var scales []variation.Scale
	for i, a := range p.fvar.Axes {
		l := p.limits[i]
		if p.change[i].Pinned {
			continue
		}
		a.Min, a.Default, a.Max = fixed(l.min), fixed(l.usually), fixed(l.max)
		out.Axes = append(out.Axes, a)
		scales = append(scales, p.scale(i))
	}
	for _, in := range p.fvar.Instances {
		one := table.Instance{Name: in.Name, PostScript: in.PostScript}
		fits := true
		for i, x := range in.Coordinates {
			l := p.limits[i]
			fits = fits && x.Float() >= l.min-1e-4 && x.Float() <= l.max+1e-4
			if !p.change[i].Pinned {
				one.Coordinates = append(one.Coordinates, x)
			}
		}
		if fits {
			out.Instances = append(out.Instances, one)
		}
	}
	p.put(table.TagFvar, out.Encode())
	p.put(table.TagAvar, variation.EncodeAvar(scales))
	return nil
}

func fixed(x float64) table.Fixed { return table.Fixed(math.Round(x * 65536)) }

// scale returns the scale of an axis after the change: the old one within the new
// range, from the new ends and default.
func (p styling) scale(axis int) variation.Scale {
	if !p.change[axis].Limited {
		if axis < len(p.scales) && len(p.scales[axis]) > 0 {
			return p.scales[axis]
		}
		return variation.Scale{{-1, -1}, {0, 0}, {1, 1}}
	}
	a, l := p.fvar.Axes[axis], p.limits[axis]
	// Between these places both the way to the old coordinate and the old scale are straight.
	places := []float64{l.min, l.usually, l.max, a.Default.Float()}
	if axis < len(p.scales) {
		for _, pair := range p.scales[axis] {
			x := a.Default.Float() + pair[0]*(a.Max.Float()-a.Default.Float())
			if pair[0] < 0 {
				x = a.Default.Float() + pair[0]*(a.Default.Float()-a.Min.Float())
			}
			places = append(places, x)
		}
	}
	out := variation.Scale{{-1, -1}, {0, 0}, {1, 1}}
	for _, x := range places {
		if x <= l.min || x >= l.max || x == l.usually {
			continue
		}
		from := (x - l.usually) / (l.max - l.usually)
		if x < l.usually {
			from = (x - l.usually) / (l.usually - l.min)
		}
		out = append(out, [2]float64{from, p.change[axis].Place(p.normal(axis, x))})
	}
	slices.SortFunc(out, func(a, b [2]float64) int { return cmp.Compare(a[0], b[0]) })
	return slices.CompactFunc(out, func(a, b [2]float64) bool { return math.Abs(a[0]-b[0]) < 1.0/16384 })
}

// styleTable writes STAT without the values of places that are left behind; the
// axes stay, as they are those of the family.
func (p styling) styleTable(b []byte) ([]byte, error) {
	v := sfnt.View(b)
	size, _ := v.U16(4)
	axes, _ := v.U16(6)
	axesAt, _ := v.U32(8)
	count, _ := v.U16(12)
	list, ok := v.U32(14)
	axisBytes, ok2 := v.Sub(int(axesAt), int(size)*int(axes))
	if !ok || !ok2 || size < 8 {
		return nil, damaged("its styles cannot be read", table.ErrShort)
	}
	within := func(axis uint16, low, high float64) bool {
		at := int(axis) * int(size)
		tag, ok := axisBytes.U32(at)
		if !ok {
			return true
		}
		for i, a := range p.fvar.Axes {
			if a.Tag == sfnt.Tag(tag) && p.limits[i].given {
				return high >= p.limits[i].min-1e-4 && low <= p.limits[i].max+1e-4
			}
		}
		return true
	}
	var values [][]byte
	for i := range int(count) {
		offset, ok := v.U16(int(list) + 2*i)
		at := int(list) + int(offset)
		format, ok2 := v.U16(at)
		if !ok || !ok2 {
			break
		}
		c := v.Cursor()
		number := func(at int) float64 { return table.Fixed(c.U32(at)).Float() }
		axis, _ := v.U16(at + 2)
		length, keep := 12, true
		switch format {
		case 1:
			keep = within(axis, number(at+8), number(at+8))
		case 2:
			length, keep = 20, within(axis, number(at+12), number(at+16))
		case 3:
			length, keep = 16, within(axis, number(at+8), number(at+8))
		case 4:
			length = 8 + 6*int(axis)
			for k := range int(axis) {
				which, _ := v.U16(at + 8 + 6*k)
				keep = keep && within(which, number(at+10+6*k), number(at+10+6*k))
			}
		default:
			continue
		}
		if one, ok := v.Sub(at, length); ok && keep {
			values = append(values, one)
		}
	}
	elided, ok := v.U16(18)
	header := 18
	out := []byte{0, 1, 0, 0, 0, 8}
	if ok {
		header = 20
		out[3] = 1
	}
	out = binary.BigEndian.AppendUint16(out, axes)
	out = binary.BigEndian.AppendUint32(out, uint32(header))
	out = binary.BigEndian.AppendUint16(out, uint16(len(values)))
	listAt := header + 8*int(axes)
	if len(values) == 0 {
		listAt = 0
	}
	out = binary.BigEndian.AppendUint32(out, uint32(listAt))
	if ok {
		out = binary.BigEndian.AppendUint16(out, elided)
	}
	for i := range int(axes) {
		out = append(out, axisBytes[i*int(size):i*int(size)+8]...)
	}
	at := 2 * len(values)
	for _, one := range values {
		out = binary.BigEndian.AppendUint16(out, uint16(at))
		at += len(one)
	}
	for _, one := range values {
		out = append(out, one...)
	}
	return out, nil
}

// styles sets weight, width, slope and names as a static font of the style has
// them; a font that still varies keeps its names.
func (p styling) styles() error {
	os2 := p.editable(table.TagOS2, 68)
	italic := p.slope(os2)
	if os2 != nil {
		if w, ok := p.usual("wght"); ok {
			binary.BigEndian.PutUint16(os2[4:], uint16(max(1, min(1000, math.Round(w)))))
		}
		if w, ok := p.usual("wdth"); ok {
			binary.BigEndian.PutUint16(os2[6:], widthClass(w))
		}
	}
	if !p.static {
		return p.unusedNames()
	}
	n, err := table.ParseName(p.font.Table(table.TagName))
	if err != nil {
		return damaged("its names cannot be read", err)
	}
	style, postScript := p.style(n)
	p.result.Style = style
	if postScript == "" {
		// The name of a variable font's style says where its axes start; this is another.
		if prefix := n.Best(table.NameVariationsPrefix); prefix != "" && rename.PostScript(style) != "" {
			postScript = prefix + "-" + rename.PostScript(style)
		}
	}
	named := &sfnt.Font{Flavor: p.flavor}
	for _, tag := range []sfnt.Tag{table.TagName, table.TagCFF} {
		if b := p.table(tag); len(b) > 0 {
			named.Tables = append(named.Tables, sfnt.Table{Tag: tag, Data: b})
		}
	}
	out, names, err := rename.Face(named, rename.Options{Style: style, PostScript: postScript})
	if err != nil {
		return err
	}
	for _, t := range out.Tables {
		p.put(t.Tag, t.Data)
	}
	p.bits(os2, names.Style, italic)
	return p.unusedNames()
}

// usual returns where an axis that was asked for starts now.
func (p styling) usual(tag string) (float64, bool) {
	for i, a := range p.fvar.Axes {
		if a.Tag == sfnt.MakeTag(tag) {
			return p.limits[i].usually, p.limits[i].given
		}
	}
	return 0, false
}

// slope settles whether the face leans, by its axes where they were asked for.
func (p styling) slope(os2 []byte) bool {
	italic := false
	if os2 != nil {
		italic = binary.BigEndian.Uint16(os2[62:])&(table.SelectItalic|table.SelectOblique) != 0
	}
	if angle, ok := p.usual("slnt"); ok {
		if post := p.editable(table.TagPost, 32); post != nil {
			binary.BigEndian.PutUint32(post[4:], uint32(fixed(angle)))
		}
		italic = angle < 0
	}
	if on, ok := p.usual("ital"); ok {
		italic = on >= 0.5
	}
	return italic
}

var widths = []float64{50, 62.5, 75, 87.5, 100, 112.5, 125, 150, 200}

func widthClass(percent float64) uint16 {
	best := 0
	for i, w := range widths {
		if math.Abs(w-percent) < math.Abs(widths[best]-percent) {
			best = i
		}
	}
	return uint16(best + 1)
}

// bits sets fsSelection and macStyle by the linked style.
func (p styling) bits(os2 []byte, style string, italic bool) {
	words := strings.Fields(strings.ToLower(style))
	bold := slices.Contains(words, "bold")
	for _, w := range words {
		bold = bold && (w == "bold" || w == "italic" || w == "oblique")
		italic = italic || w == "italic" || w == "oblique"
	}
	set := func(b []byte, at int, bit uint16, on bool) {
		n := binary.BigEndian.Uint16(b[at:]) &^ bit
		if on {
			n |= bit
		}
		binary.BigEndian.PutUint16(b[at:], n)
	}
	if os2 != nil {
		set(os2, 62, table.SelectBold, bold)
		set(os2, 62, table.SelectItalic, italic)
		set(os2, 62, table.SelectRegular, !bold && !italic)
	}
	if head := p.editable(table.TagHead, 54); head != nil {
		set(head, 44, table.MacBold, bold)
		set(head, 44, table.MacItalic, italic)
	}
}

// style names the place the font was pinned at: by the instance there, by the
// styles of STAT, or by words and numbers of the axes.
func (p styling) style(n *table.Name) (style, postScript string) {
	for _, in := range p.fvar.Instances {
		same := true
		for i, x := range in.Coordinates {
			same = same && math.Abs(x.Float()-p.limits[i].usually) < 1e-3
		}
		if name := n.Best(in.Name); same && name != "" {
			return name, n.Best(in.PostScript)
		}
	}
	type word struct {
		text  string
		order int
	}
	var words []word
	stat, err := table.ParseStat(p.font.Table(table.TagSTAT))
	for i, a := range p.fvar.Axes {
		at := p.limits[i].usually
		one := word{order: i}
		found := false
		if err == nil {
			for _, v := range stat.Values {
				if stat.Axes[v.Axis].Tag != a.Tag {
					continue
				}
				low, high := v.Min.Float(), v.Max.Float()
				if at >= low-1e-3 && at <= high+1e-3 && (low == high || math.Abs(v.Value.Float()-at) < 1e-3) {
					found = true
					one.order = int(stat.Axes[v.Axis].Ordering)
					if !v.Elidable {
						one.text = n.Best(v.Name)
					}
				}
			}
		}
		if !found {
			one.text = axisWord(strings.TrimSpace(a.Tag.String()), at, a.Default.Float())
		}
		if one.text != "" {
			words = append(words, one)
		}
	}
	slices.SortStableFunc(words, func(a, b word) int { return a.order - b.order })
	texts := make([]string, len(words))
	for i, w := range words {
		texts[i] = w.text
	}
	return cmp.Or(strings.Join(texts, " "), "Regular"), ""
}

// weightWords are the customary words for weights.
var weightWords = map[float64]string{
	100: "Thin", 200: "ExtraLight", 300: "Light", 400: "", 500: "Medium", 600: "SemiBold", 700: "Bold", 800: "ExtraBold", 900: "Black", 950: "ExtraBlack",
}

// axisWord says in a style's name where an axis is pinned.
func axisWord(tag string, at, usual float64) string {
	switch tag {
	case "wght":
		if word, ok := weightWords[at]; ok {
			return word
		}
		return fmt.Sprintf("Weight%g", at)
	case "ital":
		if at >= 0.5 {
			return "Italic"
		}
		return ""
	case "slnt":
		if at < 0 {
			return "Oblique"
		}
		return ""
	}
	if at == usual {
		return ""
	}
	return strings.NewReplacer(".", "p", "-", "minus").Replace(fmt.Sprintf("%s%g", tag, at))
}

// unusedNames drops the names of axes and instances that are gone.
func (p styling) unusedNames() error {
	n, err := table.ParseName(p.table(table.TagName))
	if err != nil {
		return damaged("its names cannot be read", err)
	}
	used, err := table.NamesUsed(p.table)
	if err != nil {
		return damaged("its names cannot be read", err)
	}
	before := len(n.Records)
	n.Records = slices.DeleteFunc(n.Records, func(r table.NameRecord) bool {
		return r.ID >= 256 && !used[r.ID] || p.static && r.ID == table.NameVariationsPrefix
	})
	if len(n.Records) < before && len(n.Tags) == 0 {
		p.put(table.TagName, n.Encode())
	}
	return nil
}
