package license_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/license"
)

func TestEveryOpenLicenseHasItsText(t *testing.T) {
	for _, k := range license.KnownLicenses {
		text := license.FullText(k.ID)
		assert.NotEmpty(t, text, k.ID)
		assert.True(t, license.Listed(k.ID), "%s is of the SPDX License List", k.ID)
		read := license.Read(license.Text{Source: "text", Body: text})
		if assert.NotEmpty(t, read, k.ID) && !strings.HasPrefix(k.ID, "GPL") && !strings.HasPrefix(k.ID, "AGPL") {
			assert.Equal(t, k.ID, read[0].License, "its text is told to be it")
		}
		for _, line := range strings.Split(text, "\n") {
			assert.LessOrEqual(t, len(line), 130, "%s: %s", k.ID, line)
		}
		assert.NotContains(t, text, "<copyright holders>", "the notices of the font stand there")
	}
	assert.Contains(t, license.FullText("GPL-3.0-or-later WITH Font-exception-2.0"), "embed this font")
	assert.Empty(t, license.FullText("LicenseRef-ours"))
	assert.False(t, license.Listed("House-License-3"))
	assert.False(t, license.Listed(""))
}

func TestTheTextOfALicenseIsThatOfItsMakers(t *testing.T) {
	standard := license.FullText("OFL-1.1")
	makers := license.Text{Source: "OFL.txt", Body: "Copyright 2026 Lanternjaw Studio, with Reserved Font Name \"Tern\".\r\n\r\n" + strings.ReplaceAll(standard, "\n", "\r\n")}
	quoted := license.Text{Source: "FAQ.txt", Body: "Our fonts are under the SIL Open Font License 1.1. It says: Permission is hereby granted, free of charge, to any person obtaining a copy of the Font Software."}
	other := license.Text{Source: "LICENSE", Body: license.FullText("Apache-2.0") + strings.Repeat("See also the SIL Open Font License 1.1. ", 200)}

	got := license.TextFor("OFL-1.1", []license.Text{quoted, other, makers})
	assert.Equal(t, "OFL.txt", got.Source)
	assert.True(t, strings.HasPrefix(got.Body, "Copyright 2026 Lanternjaw Studio"))
	assert.NotContains(t, got.Body, "\r")

	got = license.TextFor("OFL-1.1", []license.Text{quoted, other})
	assert.Equal(t, license.Text{Body: standard}, got, "what speaks of a license is not it")
	assert.Equal(t, "LICENSE", license.TextFor("Apache-2.0", []license.Text{quoted, other}).Source)
	assert.Empty(t, license.TextFor("House-License-3", []license.Text{makers}).Body)
}
