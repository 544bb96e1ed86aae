package lint

import (
	"sparecrate/font/sfnt"
	"sparecrate/font/table"
)

// checkLayout checks the frames of GSUB and GPOS: scripts name features,
// features name lookups, lookups lie inside and cover glyphs that are there.
func (c *checker) checkLayout() {
	for _, tag := range []sfnt.Tag{table.TagGSUB, table.TagGPOS} {
		if b := c.font.Table(tag); b != nil {
			l := &layout{checker: c, tag: tag, v: sfnt.View(b)}
			l.check()
		}
	}
}

type layout struct {
	*checker
	tag               sfnt.Tag
	v                 sfnt.View
	features, lookups int
	outside           tally
}

// lastLookupType is the highest type of lookup in each table, and the one that
// stands for another by a longer offset.
var lastLookupType = map[sfnt.Tag]struct{ last, extension int }{table.TagGSUB: {8, 7}, table.TagGPOS: {9, 9}}

func (l *layout) check() {
	if len(l.v) < 10 {
		l.wrong(l.tag, "table-short", "It ends inside its header.")
		return
	}
	header := l.v.Cursor()
	if version := header.Count(0); version != 1 {
		l.wrong(l.tag, "version", "The version is %d; there is only 1.", version)
		return
	}
	scripts, features, lookups := header.Count(4), header.Count(6), header.Count(8)
	count := func(at int, what string) (int, bool) {
		n, ok := l.v.U16(at)
		if at == 0 {
			return 0, false // an empty list may be left out
		}
		if !ok {
			l.wrong(l.tag, "table-short", "Its list of %s lies outside.", what)
		}
		return int(n), ok
	}
	l.lookups, _ = count(lookups, "lookups")
	l.features, _ = count(features, "features")
	l.checkFeatures(features)
	if n, ok := count(scripts, "scripts"); ok {
		l.checkScripts(scripts, n)
	}
	for i := range l.lookups {
		l.checkLookup(lookups, i)
	}
	l.report(Error, l.tag, "lookup-outside", &l.outside)
}

func (l *layout) checkFeatures(list int) {
	var wrong tally
	last, ordered := uint32(0), true
	for i := range l.features {
		tag, _ := l.v.U32(list + 2 + 6*i)
		offset, ok := l.v.U16(list + 6 + 6*i)
		at := list + int(offset)
		n, ok2 := l.v.U16(at + 2)
		if !ok || !ok2 {
			wrong.add("Feature %d lies outside the table.", i)
			continue
		}
		ordered = ordered && tag >= last
		last = tag
		if !l.spend(int(n), l.tag) {
			return
		}
		for k := range int(n) {
			lookup, ok := l.v.U16(at + 4 + 2*k)
			if !ok || int(lookup) >= l.lookups {
				wrong.add("The feature `%s` calls lookup %d; there are %d.", sfnt.Tag(tag), lookup, l.lookups)
				break
			}
		}
	}
	l.report(Error, l.tag, "feature-outside", &wrong)
	if !ordered {
		l.odd(l.tag, "features-order", "The features are out of order.")
	}
}

func (l *layout) checkScripts(list, count int) {
	var wrong tally
	system := func(at int, of sfnt.Tag) {
		const none = 0xFFFF
		need, _ := l.v.U16(at + 2)
		n, ok := l.v.U16(at + 4)
		if !ok {
			wrong.add("The script `%s` has a language that lies outside the table.", of)
			return
		}
		if need != none && int(need) >= l.features {
			wrong.add("The script `%s` needs feature %d; there are %d.", of, need, l.features)
		}
		if !l.spend(int(n), l.tag) {
			return
		}
		for k := range int(n) {
			feature, ok := l.v.U16(at + 6 + 2*k)
			if !ok || int(feature) >= l.features {
				wrong.add("The script `%s` calls feature %d; there are %d.", of, feature, l.features)
				return
			}
		}
	}
	for i := range count {
		tag, _ := l.v.U32(list + 2 + 6*i)
		offset, ok := l.v.U16(list + 6 + 6*i)
		at := list + int(offset)
		usual, ok1 := l.v.U16(at)
		languages, ok2 := l.v.U16(at + 2)
		if !ok || !ok1 || !ok2 {
			wrong.add("Script %d lies outside the table.", i)
			continue
		}
		if usual != 0 {
			system(at+int(usual), sfnt.Tag(tag))
		}
		if !l.spend(int(languages), l.tag) {
			return
		}
		for k := range min(int(languages), len(l.v)/6) {
			if offset, ok := l.v.U16(at + 8 + 6*k); ok {
				system(at+int(offset), sfnt.Tag(tag))
			}
		}
		if wrong.count > maxFindings {
			break
		}
	}
	l.report(Error, l.tag, "script-outside", &wrong)
}

func (l *layout) checkLookup(list, i int) {
	offset, ok := l.v.U16(list + 2 + 2*i)
	at := list + int(offset)
	kind, _ := l.v.U16(at)
	n, ok2 := l.v.U16(at + 4)
	if !ok || !ok2 {
		l.outside.add("Lookup %d lies outside the table.", i)
		return
	}
	types := lastLookupType[l.tag]
	if kind < 1 || int(kind) > types.last {
		l.outside.add("Lookup %d is of the type %d, which does not exist.", i, kind)
		return
	}
	if !l.spend(int(n), l.tag) {
		return
	}
	for k := range int(n) {
		offset, ok := l.v.U16(at + 6 + 2*k)
		sub := at + int(offset)
		format, ok2 := l.v.U16(sub)
		real := int(kind)
		if ok && ok2 && real == types.extension {
			inner, _ := l.v.U16(sub + 2)
			far, ok3 := l.v.U32(sub + 4)
			real, sub, ok2 = int(inner), sub+int(far), ok3
			format, _ = l.v.U16(sub)
		}
		if _, fits := l.v.U16(sub); !ok || !ok2 || !fits {
			l.outside.add("Lookup %d has rules outside the table.", i)
			return
		}
		if coversAtTwo(l.tag, real, int(format)) && !l.covers(sub, i) {
			return
		}
	}
}

// coversAtTwo reports whether the offset of the coverage follows the format, as
// it does everywhere but in chains of coverages.
func coversAtTwo(tag sfnt.Tag, kind, format int) bool {
	context, chain := 5, 6
	if tag == table.TagGPOS {
		context, chain = 7, 8
	}
	return (kind != context && kind != chain) || format != 3
}

// covers checks that a subtable's coverage lies inside, ascends, and names
// glyphs that are there.
func (l *layout) covers(sub, lookup int) bool {
	offset, _ := l.v.U16(sub + 2)
	at := sub + int(offset)
	format, _ := l.v.U16(at)
	n, ok := l.v.U16(at + 2)
	size := map[uint16]int{1: 2, 2: 6}[format]
	list, fits := l.v.Sub(at+4, size*int(n))
	if !ok || size == 0 || !fits {
		l.outside.add("Lookup %d has a list of glyphs that cannot be read.", lookup)
		return false
	}
	if !l.spend(int(n), l.tag) {
		return false
	}
	last := -1
	for i := range int(n) {
		first, _ := list.U16(size * i)
		end := first
		if format == 2 {
			end, _ = list.U16(size*i + 2)
		}
		switch {
		case int(first) <= last || end < first:
			l.outside.add("Lookup %d has a list of glyphs out of order; some of them are not found.", lookup)
			return false
		case int(end) >= l.glyphs:
			l.outside.add("Lookup %d is for glyph %d; there are %d.", lookup, end, l.glyphs)
			return false
		}
		last = int(end)
	}
	return true
}
