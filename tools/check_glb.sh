#!/usr/bin/env bash
# Checks the demo's GLB with the format's public validator where node and npm are present; else says that it did not.
set -u
cd "$(dirname "$0")/.."
if ! command -v node >/dev/null 2>&1 || ! command -v npm >/dev/null 2>&1; then
    echo "glTF validator: skipped, there is no node"
    exit 0
fi
place=.venv/gltf-validator
if [ ! -d "$place/node_modules/gltf-validator" ]; then
    mkdir -p "$place"
    if ! npm install --silent --no-audit --no-fund --prefix "$place" gltf-validator@2.0.0-dev.3.10 >/dev/null 2>&1; then
        echo "glTF validator: skipped, it could not be installed"
        exit 0
    fi
fi
.venv/bin/morphax demo --write "$place/demo.morphax" && .venv/bin/morphax build "$place/demo.morphax" --out "$place/demo.glb" || exit 1
node - "$place" <<'JS'
const [, , place] = process.argv
const path = require('path').resolve(place)
const validator = require(path + '/node_modules/gltf-validator')
const data = new Uint8Array(require('fs').readFileSync(path + '/demo.glb'))
validator.validateBytes(data).then((report) => {
  const { numErrors, numWarnings } = report.issues
  console.log(`glTF validator: ${numErrors} errors, ${numWarnings} warnings`)
  if (numErrors + numWarnings) {
    console.log(report.issues.messages.slice(0, 5).map((m) => `${m.code} ${m.pointer}: ${m.message}`).join('\n'))
    process.exit(1)
  }
})
JS
