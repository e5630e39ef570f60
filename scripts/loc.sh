#!/usr/bin/env bash
# Counts non-blank lines of code and of tests, and prints the share of tests.
set -euo pipefail
count() { git ls-files -z -- "$@" | xargs -0 -r cat | grep -c '[^[:space:]]' || true; }
app=$(count 'src/*.py' 'scripts/*.py' 'web/src/*.ts' 'web/src/*.tsx' 'web/src/*.css' 'web/*.ts' ':!web/src/api/schema.d.ts')
tests=$(count 'tests/*.py')
echo "application $app, tests $tests, share of tests $((100 * tests / (app + tests))) %"
