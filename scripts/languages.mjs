// Makes font/coverage/languages.txt from the exemplar letters of the Unicode
// CLDR: for each language the characters its everyday writing needs. Run it by
// `make languages` when a new CLDR is wanted; the result is kept in the
// repository and nothing else needs the packages.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const version = "48.2.0";
const folder = mkdtempSync(join(tmpdir(), "cldr-"));
const unpack = (name) => {
  execFileSync("npm", ["pack", `${name}@${version}`, "--silent"], { cwd: folder });
  execFileSync("tar", ["xzf", `${name}-${version}.tgz`, "--one-top-level=" + name], { cwd: folder });
  return join(folder, name, "package", "main");
};
const json = (...path) => JSON.parse(readFileSync(join(...path), "utf8"));

// A set is written like [a b {ch} ä-ö \u0301]: single characters, strings in
// braces, ranges, and escapes with a backslash.
function codepoints(set) {
  const out = new Set();
  // A string of several letters, such as a digraph with accents, is written with
  // letters the language has anyway; its rare marks ask nothing of a font.
  const bare = set.replace(/\{(.*?)\}/gu, (_, s) => (s.match(/\P{M}/gu) ?? []).length > 1 ? s.replace(/\p{M}/gu, "") : s);
  const all = [...bare.replace(/^\[|\]$/g, "")];
  let last = null, range = false;
  for (let i = 0; i < all.length; i++) {
    let c = all[i];
    if (/\s/u.test(c)) continue;
    if (c === "-" && last !== null) { range = true; continue; }
    if (c === "\\") {
      c = all[++i];
      if (c === "u") { c = String.fromCodePoint(parseInt(all.slice(i + 1, i + 5).join(""), 16)); i += 4; }
      else if (c === "U") { c = String.fromCodePoint(parseInt(all.slice(i + 1, i + 9).join(""), 16)); i += 8; }
    }
    const n = c.codePointAt(0);
    for (let k = range ? last + 1 : n; k <= n; k++) out.add(k);
    range = false;
    last = n;
  }
  return out;
}

// Text needs capitals too, where a letter has one of its own; Georgian is
// written without.
function withCapitals(set) {
  for (const n of [...set]) {
    const upper = [...String.fromCodePoint(n).toUpperCase()];
    if (upper.length === 1 && !/\p{Script=Georgian}/u.test(upper[0])) set.add(upper[0].codePointAt(0));
  }
  return set;
}

function ranges(set) {
  const sorted = [...set].sort((a, b) => a - b);
  const parts = [];
  for (let i = 0; i < sorted.length;) {
    let j = i;
    while (sorted[j + 1] === sorted[j] + 1) j++;
    parts.push(sorted[i].toString(16) + (j > i ? "-" + sorted[j].toString(16) : ""));
    i = j + 1;
  }
  return parts.join(" ");
}

try {
  const misc = unpack("cldr-misc-full"), names = unpack("cldr-localenames-full");
  const languages = json(names, "en", "languages.json").main.en.localeDisplayNames.languages;
  const scripts = json(names, "en", "scripts.json").main.en.localeDisplayNames.scripts;
  const plain = new Map(), lines = [];
  for (const locale of readdirSync(misc).sort()) {
    const [, language, script] = /^([a-z]{2,3})(?:-([A-Z][a-z]{3}))?$/.exec(locale) ?? [];
    if (!language || language === "und" || !languages[language]) continue;
    const letters = ranges(withCapitals(codepoints(json(misc, locale, "characters.json").main[locale].characters.exemplarCharacters ?? "[]")));
    if (letters === "" || plain.get(language) === letters) continue; // a script that writes as the language does anyway
    if (!script) plain.set(language, letters);
    lines.push([locale, languages[locale] ?? languages[language] + (script ? ` (${scripts[script]})` : ""), letters].join("\t"));
  }
  writeFileSync(new URL("../font/coverage/languages.txt", import.meta.url),
    `# Unicode CLDR ${version}: language, its name, and the code points (hexadecimal, as ranges) its everyday writing\n` +
    `# needs, capitals included. Made by scripts/languages.mjs; not edited by hand. Data (c) Unicode, Inc., Unicode-3.0 license.\n` + lines.join("\n") + "\n");
  console.log(`${lines.length} languages`);
} finally {
  rmSync(folder, { recursive: true });
}
