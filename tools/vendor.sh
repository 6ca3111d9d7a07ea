#!/usr/bin/env bash
# Copies style sheet, icons and font out of their npm packages into the application, licences beside them.
set -euo pipefail
here=$(cd "$(dirname "$0")/.." && pwd)
static="$here/bright_willow/web/static"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --silent bootstrap@5.3 bootstrap-icons@1.13 @fontsource/atkinson-hyperlegible@5.3
mkdir -p "$static/vendor" "$static/font" "$static/icons"
grep -v sourceMappingURL node_modules/bootstrap/dist/css/bootstrap.min.css > "$static/vendor/bootstrap.min.css"
cp node_modules/bootstrap/LICENSE "$static/vendor/bootstrap-LICENSE.txt"
for weight in 400 700; do
  cp "node_modules/@fontsource/atkinson-hyperlegible/files/atkinson-hyperlegible-latin-$weight-normal.woff2" "$static/font/"
done
cp node_modules/@fontsource/atkinson-hyperlegible/LICENSE "$static/font/atkinson-hyperlegible-LICENSE.txt"
# prints embed the same type, which the PDF library reads as TrueType
python3 -m venv fonts && fonts/bin/pip install -q fonttools brotli
mkdir -p "$here/bright_willow/drawing/font"
for pair in 400:regular 700:bold; do
  fonts/bin/python -c 'import sys; from fontTools.ttLib import TTFont; f = TTFont(sys.argv[1]); f.flavor = None; f.save(sys.argv[2])' \
    "$static/font/atkinson-hyperlegible-latin-${pair%%:*}-normal.woff2" \
    "$here/bright_willow/drawing/font/atkinson-hyperlegible-${pair##*:}.ttf"
done
cp "$static/font/atkinson-hyperlegible-LICENSE.txt" "$here/bright_willow/drawing/font/"
for icon in $(cat "$here/tools/icons.txt"); do
  cp "node_modules/bootstrap-icons/icons/$icon.svg" "$static/icons/"
done
cp node_modules/bootstrap-icons/LICENSE "$static/icons/bootstrap-icons-LICENSE.txt"
