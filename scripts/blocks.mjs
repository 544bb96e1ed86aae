// Makes font/coverage/blocks.txt: the blocks of the Unicode character database. Run it by
// `make blocks` when a new version of Unicode is wanted; the result is kept in the
// repository and nothing else needs the package.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const unicode = "17.0.0";
const folder = mkdtempSync(join(tmpdir(), "unicode-"));
const file = execFileSync("npm", ["pack", `@unicode/unicode-${unicode}`, "--silent"], { cwd: folder, encoding: "utf8" }).trim();
execFileSync("tar", ["xzf", file, "package"], { cwd: folder });
// The package writes names with underscores; these are the hyphens of the standard.
const named = (name) =>
  name
    .replaceAll("_", " ")
    .replace(/(?<!Extension) ([A-Z])$/, "-$1")
    .replace(/ (And|For) /g, (word) => word.toLowerCase())
    .replace(/Linear-/, "Linear ")
    .replace("Cypro Minoan", "Cypro-Minoan")
    .replace("Latin 1", "Latin-1")
    .replace("Phags Pa", "Phags-pa");
const blocks = [];
for (const name of readdirSync(join(folder, "package", "Block"))) {
  const { default: ranges } = await import(join(folder, "package", "Block", name, "ranges.mjs"));
  for (const r of ranges) blocks.push([r.begin, r.end, named(name)]);
}
rmSync(folder, { recursive: true });
const lines = blocks
  .filter(([, , name]) => name !== "undefined" && name !== "No Block")
  .sort((a, b) => a[0] - b[0])
  .map(([a, b, name]) => `${a.toString(16)}-${(b - 1).toString(16)}\t${name}`);
writeFileSync(
  "font/coverage/blocks.txt",
  `# Unicode ${unicode}: the blocks, as first and last code point (hexadecimal) and name. Made by scripts/blocks.mjs;
# not edited by hand. Data (c) Unicode, Inc., Unicode-3.0 license.
${lines.join("\n")}
`,
);
