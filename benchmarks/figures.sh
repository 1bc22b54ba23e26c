#!/bin/sh
# A thousand random classes, forty at a time: is every figure of the same thing the same on all pages?
# Usage: benchmarks/figures.sh [FIRST [LAST]]
cd "$(dirname "$0")/.." || exit 1
export DJANGO_SETTINGS_MODULE=zester.site.settings ZESTER_DEBUG=1 CI=1
first=${1:-0}
while [ "$first" -lt "${2:-1000}" ]; do
  ZESTER_FIGURES=$first-$((first + 40)) .venv/bin/python -m django test --noinput zester.bags.tests.test_figures \
    2>&1 | grep -E "^FAIL|^[A-Za-z]*Error|passed" | sed "s/^/$first: /"
  first=$((first + 40))
done
