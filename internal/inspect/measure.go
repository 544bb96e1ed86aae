package inspect

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"sync"

	"sparecrate/font"
	"sparecrate/font/fallback"
	"sparecrate/font/metadata"
	"sparecrate/internal/css"
)

// The bounds of what is measured by making it.
const (
	mostMade    = 300_000 // bytes of a font that is compressed to see what that saves
	leastShrunk = 20_000  // bytes of a font below which a subset saves too little
)

// Read opens the fonts among what came.
func (v *Visit) Read() {
	known := map[string]*Font{}
	for i := range v.Requests {
		r := &v.Requests[i]
		if r.Kind != FontKind || len(r.Body) == 0 {
			continue
		}
		sum := sha256.Sum256(r.Body)
		hash := hex.EncodeToString(sum[:])
		if known[hash] == nil {
			opened, err := font.Open(r.Body)
			if err != nil || len(opened.Faces) == 0 || r.Status >= 400 {
				continue
			}
			known[hash] = &Font{SHA256: hash, Face: opened.Faces[0], Metadata: metadata.Of(opened)[0], Format: string(opened.Container)}
		}
		r.Font = known[hash]
	}
	// What a frame asks for again comes from the browser's memory, without bytes.
	for i := range v.Requests {
		r := &v.Requests[i]
		if r.Font != nil || r.Kind != FontKind || r.Status >= 400 || r.Failed != "" || len(r.Body) > 0 {
			continue
		}
		if at := slices.IndexFunc(v.Requests, func(o Request) bool { return o.Font != nil && o.URL == r.URL }); at >= 0 {
			r.Font, r.Body = v.Requests[at].Font, v.Requests[at].Body
		}
	}
}

// Measure makes of each font what would be smaller, to see by how much. It is called once
// after Read.
func (v *Visit) Measure() {
	done := map[*Font]bool{}
	var wait sync.WaitGroup
	slots := make(chan struct{}, 2)
	for _, r := range v.Sent() {
		if done[r.Font] {
			continue
		}
		done[r.Font] = true
		wait.Go(func() {
			slots <- struct{}{}
			defer func() { <-slots }()
			v.make(r)
		})
	}
	wait.Wait()
}

func (v *Visit) make(r *Request) {
	f := r.Font
	if f.Format != "woff2" && len(r.Body) <= mostMade {
		if b, err := font.Make(f.Face, font.WOFF2); err == nil {
			f.Compressed = int64(len(b))
		}
	}
	var text strings.Builder
	for _, run := range v.UsedIn(f) {
		text.WriteString(run.Text)
	}
	if len(r.Body) < leastShrunk || text.Len() == 0 {
		return
	}
	f.Trimmed = Subset(f.Face, text.String())
}

// Fallback is a family of a page, and its fallback until it comes.
type Fallback struct {
	Family   string `json:"family"`
	Adjusted string `json:"adjusted"` // name of the fallback that is made to its measure
	Without  string `json:"without"`  // the list of families without it
	Rule     string `json:"rule"`
	Name     string `json:"-"` // of the font that it is
	Has      bool   `json:"-"` // the page has one made to measure already
}

// fallbacks are the fonts that systems fall back to, by the general family that a list ends with.
var fallbacks = map[string][2]string{"serif": {"times-new-roman", "Times New Roman"}, "monospace": {"courier-new", "Courier New"}}

// Fallbacks returns what to lay the text of a page out in, to see how much it moves.
func (v *Visit) Fallbacks() []Fallback {
	j := &judge{Visit: v}
	for i := range v.Sheets {
		for _, r := range css.FontRules(v.Sheets[i].Text, v.Sheets[i].URL) {
			j.rules = append(j.rules, rule{r, &v.Sheets[i]})
		}
	}
	var out []Fallback
	for i := range v.Runs {
		r := &v.Runs[i]
		if len(r.Asked) == 0 || slices.ContainsFunc(out, func(s Fallback) bool { return sameName(s.Family, r.Asked[0]) }) {
			continue
		}
		files := j.files(r.Asked[0])
		if len(files) == 0 || privateUse(r.Text) || j.optional(r.Asked[0]) {
			continue
		}
		web, err := fallback.Face(files[0].Font.Face)
		if err != nil {
			continue
		}
		s := Fallback{Family: r.Asked[0], Adjusted: "sparecrate measure " + fmt.Sprint(len(out)), Name: "Arial"}
		system := "arial"
		if other, has := fallbacks[strings.ToLower(r.Asked[len(r.Asked)-1])]; has {
			system, s.Name = other[0], other[1]
		}
		stand, err := fallback.System(system, r.Weight >= boldFrom)
		if err != nil {
			continue
		}
		o, err := fallback.Of(web, stand, "")
		if err != nil {
			continue
		}
		local := s.Name
		if r.Weight >= boldFrom {
			local += " Bold"
		}
		face := css.Fallback(files[0].Font.Metadata, local, *o)
		face.Family, face.Weight = s.Adjusted, "1 1000"
		s.Rule = face.String()
		s.Without = strings.Join(append(slices.Clone(quotedAll(r.Asked[1:])), "sans-serif"), ", ")
		for _, a := range r.Asked[1:] {
			s.Has = s.Has || slices.ContainsFunc(j.rules, func(x rule) bool { return sameName(x.Family, a) && x.Adjusted })
		}
		out = append(out, s)
	}
	return out
}

func quotedAll(names []string) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = quoted([]string{n})
	}
	return out
}

// optional reports whether a family is not waited for.
func (j *judge) optional(family string) bool {
	return slices.ContainsFunc(j.rules, func(r rule) bool { return sameName(r.Family, family) && r.Display == "optional" })
}
