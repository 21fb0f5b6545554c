#!/bin/sh
# Records the example review: which level of gzip is worth its time, over two kinds of generated data.
# Usage, from the project's folder: sh examples/record-compression.sh
set -eu
data=$(mktemp -d)
trap 'rm -rf "$data"' EXIT
node -e '
  const fs = require("fs");
  let state = 42;
  const next = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const words = Array.from({ length: 4000 }, () => Array.from({ length: 3 + 7 * next() }, () => String.fromCharCode(97 + 26 * next() ** 1.6)).join(""));
  let prose = "";
  while (prose.length < 12e6) prose += words[Math.floor(words.length * next() ** 3)] + (next() < 0.1 ? ".\n" : " ");
  fs.writeFileSync(process.argv[1] + "/prose.txt", prose);
  let table = "";
  for (let t = 0; table.length < 12e6; t += 1) table += (t / 1000).toFixed(3) + "," + (16.7 + next()).toFixed(4) + "," + (60 + Math.floor(9 * next())) + "\n";
  fs.writeFileSync(process.argv[1] + "/table.csv", table);
' "$data"
for level in 6 1 3 9; do
  for file in prose.txt table.csv; do
    npm run --silent record -- --runs 5 --label "gzip level $level" --workload "Compress $file" --review "Compression levels" \
      --question "Which level of gzip is worth its time?" \
      --output "$data/$file.gz" --into examples/compression-levels -- gzip -f -k -n "-$level" "$data/$file"
  done
done
