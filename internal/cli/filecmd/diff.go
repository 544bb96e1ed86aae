package filecmd

import (
	"context"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/identity"
	"sparecrate/internal/cli/terminal"
)

// difference is the JSON of `file compare`.
type difference struct {
	Relation   identity.Relation `json:"relation"`
	Sentence   string            `json:"sentence"`
	OtherNames bool              `json:"otherNames"`
	Mislabeled bool              `json:"mislabeled"`
	Names      [2]string         `json:"names"`
	Versions   [2]string         `json:"versions"`
	*identity.Evidence
	OnlyFirst  characters `json:"onlyFirst"`
	OnlySecond characters `json:"onlySecond"`
	Instance   *instance  `json:"instance,omitempty"`
}

type characters struct {
	Count  int    `json:"count"`
	Ranges string `json:"ranges"`
}

// instance says where in the other's design space a face stands.
type instance struct {
	Of    string             `json:"of"` // the variable one's path
	At    map[string]float64 `json:"at"`
	Style string             `json:"style"`
}

// diffCommand is `file compare`.
func diffCommand() *cli.Command {
	return &cli.Command{
		Name: "compare", Usage: "compare the outlines of two font files: same design, subset, instance, version", ArgsUsage: "A B", Flags: []cli.Flag{terminal.JSONFlag},
		Description: terminal.Example("Compares the first faces of two files by their outlines and widths, not by their names: the same\ndesign, a part of it, a renamed copy, another version, an instance of a variable font, or\nanother design, with the evidence.", "sparecrate file compare SkerrowSans-Regular.ttf SkerrowSans-Bold.ttf"),
		Action: func(_ context.Context, c *cli.Command) error {
			args, err := terminal.Arguments(c, "the file A", "the file B")
			if err != nil {
				return err
			}
			var faces [2]*identity.Face
			for i, path := range args {
				b, err := load(path)
				if err != nil {
					return err
				}
				f, err := font.Open(b)
				if err != nil {
					return fmt.Errorf("%s: %w", path, err)
				}
				if faces[i], err = identity.Read(f.Faces[0]); err != nil {
					return fmt.Errorf("%s: what it draws cannot be measured: %w", path, err)
				}
			}
			d := describe(faces, args)
			return terminal.Show(c, d, func(w io.Writer) { d.print(w) })
		},
	}
}

func describe(faces [2]*identity.Face, paths []string) *difference {
	found := identity.Between(faces[0], faces[1])
	d := &difference{Relation: found.Relation, OtherNames: found.OtherNames, Mislabeled: found.Mislabeled, Evidence: found.Evidence, OnlyFirst: charactersOf(found.Evidence.OnlyA), OnlySecond: charactersOf(found.Evidence.OnlyB)}
	for i, f := range faces {
		n := &f.Metadata.Names
		d.Names[i], d.Versions[i] = strings.TrimSpace(n.FamilyName()+" "+n.StyleName()), n.Version
	}
	if found.Place != nil {
		d.Instance = &instance{paths[found.Of], found.Place.At, found.Place.Style}
		d.Evidence = found.Place.Evidence
	}
	d.Sentence = d.say()
	return d
}

func charactersOf(c coverage.Characters) characters { return characters{c.Len(), c.String()} }

// say puts the relation into a sentence.
func (d *difference) say() string {
	name := func(i int) string {
		if d.Names[i] == "" {
			return "a font without a name"
		}
		return d.Names[i]
	}
	switch d.Relation {
	case identity.Same:
		return fmt.Sprintf("Both draw the same design with the same %d characters.", d.Common)
	case identity.Renamed:
		return fmt.Sprintf("Both draw the same design with the same %d characters under different names: %s and %s.", d.Common, name(0), name(1))
	case identity.Part:
		said := ""
		if d.OtherNames {
			said = fmt.Sprintf(" They are named differently: %s and %s.", name(0), name(1))
		}
		switch {
		case d.OnlyFirst.Count == 0:
			return fmt.Sprintf("One design; the first holds %d of the second's %d characters.%s", d.Common, d.Common+d.OnlySecond.Count, said)
		case d.OnlySecond.Count == 0:
			return fmt.Sprintf("One design; the second holds %d of the first's %d characters.%s", d.Common, d.Common+d.OnlyFirst.Count, said)
		}
		return fmt.Sprintf("One design in two parts: %d characters are in both, %d only in the first, %d only in the second.%s", d.Common, d.OnlyFirst.Count, d.OnlySecond.Count, said)
	case identity.InstanceOf:
		where := d.places()
		if d.Instance.Style != "" {
			where += " (" + d.Instance.Style + ")"
		}
		return fmt.Sprintf("A static instance of the variable font %s: it stands at %s.", d.Instance.Of, where)
	case identity.Version:
		return fmt.Sprintf("Two versions of one design: of %d characters in both, %d are unchanged and %d are redrawn or spaced differently.", d.Common, d.Alike, d.Common-d.Alike)
	}
	switch {
	case !d.Sure() && d.OnlyFirst.Count+d.OnlySecond.Count > 0:
		return fmt.Sprintf("They share %s; that is too little to tell whether they are one design.", counted(d.Common, "drawn character"))
	case d.Mislabeled:
		stems := ""
		if d.Stems > 1.15 || d.Stems > 0 && d.Stems < 0.87 {
			stems = fmt.Sprintf("; upright strokes of the second are %g times as thick", d.Stems)
		}
		return fmt.Sprintf("Different designs under the same names: %d of %d characters are drawn alike%s. One of them is named wrongly.", d.Drawn, d.Common, stems)
	}
	return fmt.Sprintf("Different designs: %d of %d characters in both are drawn alike.", d.Drawn, d.Common)
}

// places writes where an instance stands, axis by axis.
func (d *difference) places() string {
	var out []string
	for _, tag := range slices.Sorted(maps.Keys(d.Instance.At)) {
		out = append(out, tag+" "+strconv.FormatFloat(d.Instance.At[tag], 'f', -1, 64))
	}
	return strings.Join(out, ", ")
}

func (d *difference) print(w io.Writer) {
	_, _ = fmt.Fprintf(w, "%s: %s\n\n", d.Relation, d.Sentence)
	terminal.Pairs(w,
		[2]string{"names", d.Names[0] + " | " + d.Names[1]},
		[2]string{"versions", quiet(d.Versions[0]) + " | " + quiet(d.Versions[1])},
		[2]string{"in both", fmt.Sprintf("%s, of which %d are drawn and spaced alike and %d drawn alike", counted(d.Common, "drawn character"), d.Alike, d.Drawn)})
	only := func(name string, c characters) {
		if c.Count > 0 {
			terminal.Pairs(w, [2]string{name, quiet(counted(c.Count, "character") + ": " + c.Ranges)})
		}
	}
	only("only first", d.OnlyFirst)
	only("only second", d.OnlySecond)
	if len(d.Redrawn) > 0 {
		var out []string
		for _, r := range d.Redrawn[:min(len(d.Redrawn), 12)] {
			out = append(out, fmt.Sprintf("%c %.1f%%", r.Rune, 100*r.Apart))
		}
		terminal.Pairs(w, [2]string{"differ by", more(strings.Join(out, ", "), d.Common-d.Alike-len(out)) + " (of an em)"})
	}
	if d.Stems > 0 && d.Stems != 1 {
		terminal.Pairs(w, [2]string{"strokes", fmt.Sprintf("upright strokes of the second are %g times as thick", d.Stems)})
	}
}
