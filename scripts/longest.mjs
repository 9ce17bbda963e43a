// Lists what is too long to be read: components and hooks over 150 lines, lines over 140 characters,
// of what is written by hand. Fails when there are any.
import { readdirSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";

const ts = createRequire(new URL("../web/package.json", import.meta.url))("typescript");
const most = { function: 150, line: 140 };
const files = (dir) =>
  readdirSync(dir, { withFileTypes: true }).flatMap((f) => {
    const path = join(dir, f.name);
    if (f.isDirectory()) return ["node_modules", "webdist"].includes(f.name) ? [] : files(path);
    return /\.(tsx?|css|mjs|go)$/.test(f.name) && !/\.gen\.\w+$/.test(f.name) ? [path] : [];
  });

const found = [];
const longest = [];
for (const path of [...["web/src", "e2e", "scripts", "core", "internal", "cmd"].flatMap(files)]) {
  const text = readFileSync(path, "utf8");
  for (const [i, l] of text.split("\n").entries()) if (l.length > most.line) found.push(`${path}:${i + 1}: ${l.length} characters`);
  if (!/\.tsx?$/.test(path) || path.startsWith("e2e")) continue;
  const source = ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true);
  const walk = (node) => {
    if (ts.isFunctionLike(node) && node.body) {
      const at = (pos) => source.getLineAndCharacterOfPosition(pos).line + 1;
      const lines = at(node.getEnd()) - at(node.getStart()) + 1;
      longest.push([lines, `${path}:${at(node.getStart())} ${node.name?.getText() ?? ""}`]);
      if (lines > most.function) found.push(`${path}:${at(node.getStart())}: ${node.name?.getText() ?? "a function"} has ${lines} lines`);
    }
    ts.forEachChild(node, walk);
  };
  walk(source);
}
if (process.argv.includes("-list"))
  for (const [n, what] of longest.sort((a, b) => b[0] - a[0]).slice(0, 20)) console.log(String(n).padStart(4), what);
for (const f of found) console.log(f);
process.exit(found.length > 0 ? 1 : 0);
