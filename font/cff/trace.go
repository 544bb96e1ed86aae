package cff

// codeKey names a piece of code: a glyph's, or a subroutine of all fonts of the
// table or of one.
type codeKey struct {
	kind         codeKind
	font, number int
}

type codeKind uint8

const (
	codeGlyph codeKind = iota
	codeGlobal
	codeLocal
)

// site is a call within a piece of code: the bytes of the number, up to the
// operator at, and what it calls.
type site struct {
	from, at int
	to       codeKey
}

// trace notes which code calls which while glyphs run.
type trace struct {
	sites map[codeKey]map[int]site // by code and place of the operator
	// computed says that a call takes a number that does not stand before it,
	// so that subroutines cannot be renumbered.
	computed bool
	parts    []int // glyphs that the last one run is made of
}

func (t *trace) call(in codeKey, from, at int, to codeKey) {
	if from < 0 {
		t.computed = true
		return
	}
	calls := t.sites[in]
	if calls == nil {
		calls = map[int]site{}
		t.sites[in] = calls
	}
	if known, ok := calls[at]; ok && known.to != to {
		t.computed = true // one place that calls now this, now that
	}
	calls[at] = site{from, at, to}
}

// Parts returns the glyphs that a glyph is made of besides its own outline: the
// letter and the accent of the old way to write accented letters. The error
// wraps sfnt.ErrDamaged or ErrTooDeep.
func (t *Table) Parts(glyph int) ([]int, error) {
	if t.Version != 1 || t.CID {
		return nil, nil
	}
	m, err := t.machine(glyph)
	if err != nil {
		return nil, err
	}
	m.trace = &trace{sites: map[codeKey]map[int]site{}}
	if err := m.execute(); err != nil {
		return nil, err
	}
	return m.trace.parts, nil
}
