package table

import "sparecrate/font/sfnt"

// NamesUsed finds the name IDs that other tables of a font speak of: axes and
// instances, styles, features and palettes. The error wraps ErrShort.
func NamesUsed(of func(sfnt.Tag) []byte) (map[NameID]bool, error) {
	used := map[NameID]bool{}
	if b := of(TagFvar); len(b) > 0 {
		f, err := ParseFvar(b)
		if err != nil {
			return nil, err
		}
		for _, a := range f.Axes {
			used[a.Name] = true
		}
		for _, i := range f.Instances {
			used[i.Name], used[i.PostScript] = true, true
		}
	}
	if v := sfnt.View(of(TagSTAT)); len(v) >= 18 {
		statNames(v, used)
	}
	for _, tag := range []sfnt.Tag{TagGSUB, TagGPOS} {
		featureNames(sfnt.View(of(tag)), used)
	}
	if v := sfnt.View(of(sfnt.MakeTag("CPAL"))); len(v) > 12 {
		paletteNames(v, used)
	}
	return used, nil
}

// statNames reads STAT itself: values of all formats have their name at the
// same place.
func statNames(v sfnt.View, used map[NameID]bool) {
	size, _ := v.U16(4)
	axes, _ := v.U16(6)
	at, _ := v.U32(8)
	for i := range min(int(axes), maxAxes) {
		if n, ok := v.U16(int(at) + int(size)*i + 4); ok {
			used[NameID(n)] = true
		}
	}
	values, _ := v.U16(12)
	list, _ := v.U32(14)
	for i := range int(values) {
		offset, ok := v.U16(int(list) + 2*i)
		if !ok {
			break
		}
		if n, ok := v.U16(int(list) + int(offset) + 6); ok {
			used[NameID(n)] = true
		}
	}
	if n, ok := v.U16(18); ok {
		used[NameID(n)] = true // elidedFallbackNameID
	}
}

// featureNames reads the parameters of stylistic sets and character variants.
func featureNames(v sfnt.View, used map[NameID]bool) {
	list, _ := v.U16(6)
	count, ok := v.U16(int(list))
	if !ok || list == 0 {
		return
	}
	for i := range int(count) {
		tag, _ := v.U32(int(list) + 2 + 6*i)
		offset, ok := v.U16(int(list) + 6 + 6*i)
		params, _ := v.U16(int(list) + int(offset))
		if !ok || params == 0 {
			continue
		}
		at := int(list) + int(offset) + int(params)
		add := func(place, count int) {
			first, ok := v.U16(at + place)
			for k := range count {
				if ok && first != 0 {
					used[NameID(int(first)+k)] = true
				}
			}
		}
		switch sfnt.Tag(tag).String()[:2] {
		case "ss":
			add(2, 1)
		case "cv":
			named, _ := v.U16(at + 8)
			add(2, 1)
			add(4, 1)
			add(6, 1)
			add(10, min(int(named), 256))
		}
		if sfnt.Tag(tag).String() == "size" {
			add(4, 1)
		}
	}
}

// paletteNames reads the labels of CPAL version 1.
func paletteNames(v sfnt.View, used map[NameID]bool) {
	version, _ := v.U16(0)
	if version == 0 {
		return
	}
	entries, _ := v.U16(2)
	palettes, _ := v.U16(4)
	at := 12 + 2*int(palettes)
	for i, n := range []int{int(palettes), int(entries)} {
		list, _ := v.U32(at + 4 + 4*i)
		for k := range n {
			if name, ok := v.U16(int(list) + 2*k); ok && list != 0 {
				used[NameID(name)] = true
			}
		}
	}
}
