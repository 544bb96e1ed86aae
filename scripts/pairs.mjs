// Counts which letters follow which in running text and writes the table that
// stand-in fonts are made by (font/fallback/pairs.txt). The text is that of the
// manual pages that Debian packages for each language; of it only the counts are
// kept. The packages are fetched into .build/pairs and unpacked there, not
// installed.

import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";

const root = join(import.meta.dirname, "..");
const build = join(root, ".build/pairs");
const out = join(root, "font/fallback/pairs.txt");

// In a hundred thousand pairs: rarer ones change no line.
const least = 20;

// The packages' names after "manpages", and the folder of the pages, where these
// are not the language's code; and the script where that is not Latin.
const sources = {
  en: { packages: ["", "-dev"], folder: "." },
  de: {}, fr: {}, es: {}, it: {}, pt: { packages: ["-pt-br"], folder: "pt_BR" }, nl: {}, sv: {}, da: {}, nb: {},
  fi: {}, pl: {}, cs: {}, tr: {}, hu: {}, ro: {}, ru: { script: "Cyrillic" }, uk: { script: "Cyrillic" }, el: { script: "Greek" },
};

function fetched(packages) {
  const into = join(build, "unpacked");
  for (const name of packages.map(p => `manpages${p}`)) {
    const there = join(build, `${name}.there`);
    if (existsSync(there)) continue;
    mkdirSync(into, { recursive: true });
    execFileSync("apt-get", ["download", name], { cwd: build, stdio: ["ignore", "ignore", "inherit"] });
    const file = join(build, readdirSync(build).find(f => f.startsWith(`${name}_`)));
    execFileSync("dpkg-deb", ["-x", file, into]);
    rmSync(file);
    writeFileSync(there, "");
  }
  return join(into, "usr/share/man");
}

const pagesIn = folder => readdirSync(folder).filter(d => /^man\d$/.test(d)).flatMap(d =>
  readdirSync(join(folder, d)).filter(f => f.endsWith(".gz")).map(f => join(folder, d, f)));

// wordsOf gives the words of a page's prose, without what is no word of the
// language: commands, numbers, abbreviations, words in another script. A line counts
// once in all pages.
function* wordsOf(page, seen, script) {
  const word = new RegExp(`^\\p{Script=${script}}+([’-]\\p{Script=${script}}+)*[.,;:!?]?$`, "u");
  for (const line of page.split("\n")) {
    if (/^[.']/.test(line) || line.length < 40 || seen.has(line)) continue;
    seen.add(line);
    const plain = line.replace(/\\[&%|^~]/g, "").replace(/\\-/g, "-").replace(/\\ /g, " ").replace(/\\\(aq|'/g, "’");
    yield* plain.normalize("NFC").split(/\s+/).filter(w => word.test(w) && !/^\p{Lu}{2}|\p{Ll}\p{Lu}/u.test(w));
  }
}

function counted(folder, script) {
  const counts = new Map();
  let total = 0;
  const seen = new Set();
  for (const file of pagesIn(folder)) {
    for (const word of wordsOf(gunzipSync(readFileSync(file)).toString(), seen, script)) {
      const chars = [...` ${word} `];
      for (let i = 1; i < chars.length; i++) {
        const pair = chars[i - 1] + chars[i];
        counts.set(pair, (counts.get(pair) ?? 0) + 1);
        total++;
      }
    }
  }
  return [...counts]
    .map(([pair, n]) => [pair, Math.round(n * 1e5 / total)])
    .filter(([, n]) => n >= least)
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
}

const lines = [
  "# How often one character follows another in running text, per 100,000 pairs; _ is the space. Counted in the manual pages that",
  "# Debian packages for each language, commands and names left out; made by scripts/pairs.mjs.",
];
for (const [language, { packages = [`-${language}`], folder = language, script = "Latin" }] of Object.entries(sources)) {
  const list = counted(join(fetched(packages), folder), script);
  if (list.length < 100) throw new Error(`hardly any text was found for ${language}`);
  lines.push(`${language}\t${list.map(([pair, n]) => pair.replaceAll(" ", "_") + n).join(" ")}`);
}
writeFileSync(out, lines.join("\n") + "\n");
console.log(`${out}: ${lines.length - 2} languages`);
