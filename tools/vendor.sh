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
for icon in $(cat "$here/tools/icons.txt"); do
  cp "node_modules/bootstrap-icons/icons/$icon.svg" "$static/icons/"
done
cp node_modules/bootstrap-icons/LICENSE "$static/icons/bootstrap-icons-LICENSE.txt"
