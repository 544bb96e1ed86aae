package imports

import (
	"fmt"
	"strings"

	"sparecrate/api"
	"sparecrate/font/identity"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
)

// weigh compares an arrived file with the current one of the same face, by what they
// draw, their versions and the containers that the face has, and says whether it becomes
// the one that packs take. e is how the current one and the arrived one relate; nil
// where that is not known.
func weigh(version, container string, there store.FaceHead, e *identity.Evidence) (api.Outcome, bool) {
	if there.Container == "" {
		return api.OutcomeNew, true
	}
	by := library.CompareVersions(version, there.Version)
	if e != nil && e.Sure() {
		lacks, adds := e.OnlyA.Len(), e.OnlyB.Len()
		switch {
		case e.Relation == identity.Different:
			return api.OutcomeMislabeled, false
		// A new version may drop a few characters, and an old one have had a few more.
		case e.Relation == identity.Part && lacks >= adds && (by <= 0 || few*lacks > e.Common+lacks):
			return api.OutcomePart, false
		case e.Relation == identity.Part && adds > lacks && (by == 0 || by < 0 && few*adds > e.Common+adds):
			return api.OutcomeWhole, true
		}
	}
	siblings := !there.Containers.Has(container)
	switch {
	case by > 0:
		return api.OutcomeNewer, true
	case by < 0:
		return api.OutcomeOlder, false
	case siblings:
		return api.OutcomeSibling, library.ContainerRank(container) > library.ContainerRank(there.Container)
	}
	// The same version in other bytes: what came last is what was meant.
	return api.OutcomeNewer, true
}

// few is the share of its characters, one in so many, that one version of a design may
// have more than another and still be the same whole.
const few = 10

// headOf returns what weighing needs of a face whose files are known.
func headOf(files []store.FaceFile) store.FaceHead {
	var h store.FaceHead
	for _, f := range files {
		if f.Current {
			h.Version, h.Container, h.SHA256, h.Place = f.Version, f.File.Container, f.File.SHA256, f.Place
		}
		h.Containers = append(h.Containers, f.File.Container)
	}
	return h
}

// became says in a sentence what becomes of a file of so many faces, of which
// the first has this style and version.
func became(o api.Outcome, family, style, version, container string, faces int, e *identity.Evidence) string {
	switch {
	case faces > 1:
		return fmt.Sprintf("A collection of %d faces, the first of the family %s.", faces, family)
	case o == api.OutcomeSibling:
		return fmt.Sprintf("Another container (%s) of %s %s, which is in the catalog already.", strings.ToUpper(container), family, style)
	case o == api.OutcomeNewer:
		return fmt.Sprintf("A newer version of %s %s (%s); packs use it from now on, the old one is kept.", family, style, version)
	case o == api.OutcomeOlder:
		return fmt.Sprintf("An older version of %s %s (%s); it is kept, packs go on using the newer one.", family, style, version)
	case o == api.OutcomePart && e != nil && e.OnlyB.Len() > 0:
		return fmt.Sprintf("A part of %s %s: the same design with other characters, %d of them not in the file in use, which has %d that are not in this one. It is kept, packs go on using the larger one.", family, style, e.OnlyB.Len(), e.OnlyA.Len())
	case o == api.OutcomePart && e != nil:
		return fmt.Sprintf("A part of %s %s: it lacks %d of its characters. It is kept, packs go on using the complete file.", family, style, e.OnlyA.Len())
	case o == api.OutcomeWhole && e != nil:
		return fmt.Sprintf("The same design as %s %s with %d characters more; packs use it from now on, the part is kept.", family, style, e.OnlyB.Len())
	case o == api.OutcomeMislabeled:
		return fmt.Sprintf("It is called %s %s and draws another design%s. It is kept and not used; one of the two is named wrongly.", family, style, strokes(e))
	}
	return fmt.Sprintf("New: %s %s.", family, style)
}

// strokes says how the strokes of the second of two designs differ from those of the
// first, where they do.
func strokes(e *identity.Evidence) string {
	switch {
	case e == nil || e.Stems == 0:
		return ""
	case e.Stems >= 1.15:
		return fmt.Sprintf(", a bolder one (upright strokes are %g times as thick)", e.Stems)
	case e.Stems <= 0.87:
		return fmt.Sprintf(", a lighter one (upright strokes are %g times as thick)", e.Stems)
	}
	return ""
}
