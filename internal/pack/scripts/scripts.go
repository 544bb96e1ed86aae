// Package scripts writes the scripts by which a pack for the desktop installs and removes
// its own fonts, for the person who runs them: on Linux, macOS and Windows. It is pure.
package scripts

import (
	"fmt"
	"strings"
	"unicode"
)

// Pack is what the scripts are for.
type Pack struct {
	Of     string // whose fonts they are, for people
	Own    string // the folder that they are installed in, among the person's own fonts; a plain name
	Folder string // that they lie in within the pack
	Fonts  []Font
}

// Font is a font file, and the name that Windows lists it under.
type Font struct{ File, Full string }

// File is one script.
type File struct{ Path, Why, Text string }

// Of returns the scripts. They touch a folder of their own and nothing else of the
// person's fonts.
func Of(p Pack) []File {
	const forWhom = "installs the fonts for the person who runs it, on "
	const linux, mac = `"${XDG_DATA_HOME:-$HOME/.local/share}/fonts"`, `"$HOME/Library/Fonts"`
	return []File{
		{"install-linux.sh", forWhom + "Linux", p.shell("Installs", linux, true)},
		{"install-mac.command", forWhom + "macOS", p.shell("Installs", mac, true)},
		{"install-windows.ps1", forWhom + "Windows", p.powerShell("Installs", true)},
		{"remove-linux.sh", "removes them again", p.shell("Removes", linux, false)},
		{"remove-mac.command", "removes them again", p.shell("Removes", mac, false)},
		{"remove-windows.ps1", "removes them again", p.powerShell("Removes", false)},
	}
}

// oneLine has a name stand in one line, without control characters.
func oneLine(s string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, s)), " ")
}

// shell is a script for sh; fonts is the folder of the person's own fonts, quoted.
func (p *Pack) shell(does, fonts string, install bool) string {
	var s strings.Builder
	fmt.Fprintf(&s, "#!/bin/sh\n# %s the fonts of %s for the person who runs it; nobody else is asked for anything.\nset -eu\n", does, oneLine(p.Of))
	fmt.Fprintf(&s, "to=%s/%s\n", fonts, word(p.Own))
	if install {
		fmt.Fprintf(&s, "from=\"$(cd \"$(dirname \"$0\")\" && pwd)\"/%s\nmkdir -p \"$to\"\n", word(p.Folder))
		for _, one := range p.Fonts {
			fmt.Fprintf(&s, "cp -f \"$from\"/%s \"$to\"/\n", word(one.File))
		}
	} else {
		for _, one := range p.Fonts {
			fmt.Fprintf(&s, "rm -f \"$to\"/%s\n", word(one.File))
		}
		s.WriteString("if [ -d \"$to\" ]; then rmdir \"$to\" 2>/dev/null || echo \"Other files are left in $to\"; fi\n")
	}
	s.WriteString("if command -v fc-cache >/dev/null 2>&1; then fc-cache \"${to%/*}\" >/dev/null 2>&1 || true; fi\n")
	if install {
		fmt.Fprintf(&s, "echo \"%s installed in $to. Open programs again that list fonts.\"\n", fontsOf(len(p.Fonts)))
	} else {
		fmt.Fprintf(&s, "echo \"%s removed from $to\"\n", fontsOf(len(p.Fonts)))
	}
	return s.String()
}

func fontsOf(n int) string {
	if n == 1 {
		return "1 font"
	}
	return fmt.Sprintf("%d fonts", n)
}

// powerShell is a script for Windows PowerShell 5 and later. It begins with the mark by
// which that reads it as UTF-8.
func (p *Pack) powerShell(does string, install bool) string {
	var s strings.Builder
	fmt.Fprintf(&s, "\ufeff# %s the fonts of %s for the person who runs it; no administrator is needed.\r\n", does, oneLine(p.Of))
	lines := []string{
		"$ErrorActionPreference = 'Stop'",
		"$to = Join-Path $env:LOCALAPPDATA ('Microsoft\\Windows\\Fonts\\' + " + quoted(p.Own) + ")",
		"$key = 'HKCU:\\Software\\Microsoft\\Windows NT\\CurrentVersion\\Fonts'",
		"if (-not (Test-Path -LiteralPath $key)) { New-Item -Path $key -Force | Out-Null }",
	}
	if install {
		lines = append(lines, "$from = Join-Path $PSScriptRoot "+quoted(p.Folder), "New-Item -ItemType Directory -Force -Path $to | Out-Null")
	}
	for _, one := range p.Fonts {
		if install {
			lines = append(lines, "Copy-Item -Force -LiteralPath (Join-Path $from "+quoted(one.File)+") -Destination $to",
				"New-ItemProperty -LiteralPath $key -Name "+quoted(listed(one))+" -PropertyType String -Value (Join-Path $to "+quoted(one.File)+") -Force | Out-Null")
		} else {
			lines = append(lines, "Remove-ItemProperty -LiteralPath $key -Name "+quoted(listed(one))+" -ErrorAction SilentlyContinue",
				"Remove-Item -LiteralPath (Join-Path $to "+quoted(one.File)+") -Force -ErrorAction SilentlyContinue")
		}
	}
	if install {
		lines = append(lines, "Write-Output "+quoted(fontsOf(len(p.Fonts))+" installed. Open programs again that list fonts."))
	} else {
		lines = append(lines, "if ((Test-Path -LiteralPath $to) -and -not (Get-ChildItem -LiteralPath $to)) { Remove-Item -LiteralPath $to }", "Write-Output "+quoted(fontsOf(len(p.Fonts))+" removed."))
	}
	return s.String() + strings.Join(lines, "\r\n") + "\r\n"
}

// quoted quotes a word for PowerShell, which takes curly single quotes as ends, too.
func quoted(s string) string {
	var out strings.Builder
	out.WriteByte('\'')
	for _, r := range oneLine(s) {
		if strings.ContainsRune("'\u2018\u2019\u201a\u201b", r) {
			out.WriteRune(r)
		}
		out.WriteRune(r)
	}
	return out.String() + "'"
}

// listed is what Windows lists a font as: by its full name and kind.
func listed(f Font) string {
	if strings.HasSuffix(f.File, ".otf") {
		return f.Full + " (OpenType)"
	}
	return f.Full + " (TrueType)"
}

// word quotes a word for sh.
func word(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }
