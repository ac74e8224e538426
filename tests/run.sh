# Every test, after all set-up. Sourced by ./bradymotus test; PART names run only those: dotnet, web, e2e.
# ./bradymotus test windows tries the law of several windows on 2,000 seeds, ten times as many as otherwise.
parts=${*:-dotnet web e2e}
if [ "$parts" = windows ]; then
  command -v dotnet >/dev/null 2>&1 || fail "The .NET SDK 10 is needed: see https://dotnet.microsoft.com and try again."
  folder="$home/tests/Bradymotus.Core.Tests"
  step tests-Core "${props[@]}" src tests/Directory.Build.props tests/Repository.cs tests/Laws.cs tests/Bradymotus.Core.Tests -- dotnet build "$folder" -c Release -v q
  BRADYMOTUS_SEEDS=2000 exec "$folder/bin/Release/net10.0/Bradymotus.Core.Tests" -noColor -class '*WindowsLawTests'
fi
# What is fetched comes while the program is built.
(film && browser) &
fetching=$!
(build_packages) &
packing=$!
build_cli
wait "$packing" || exit 1
build_web
wait "$fetching" || exit 1
# The tests find their packages beside the interface.
ln -sfn ../web/node_modules "$home/tests/node_modules"
failed=0
passed=0
count() { # NAME COMMAND…: runs it, keeps its log, adds up what it counts
  local name=$1; shift
  local log="$build/test-${name//[^A-Za-z0-9]/-}.log" good bad code=0
  "$@" >"$log" 2>&1 || code=$?
  # What the runners say at their ends: xUnit a line of totals, Vitest and Playwright how many of each.
  local text; text=$(sed 's/\x1b\[[0-9;]*m//g' "$log")
  local totals; totals=$(grep -oE 'Total: [0-9]+, Errors: [0-9]+, Failed: [0-9]+' <<<"$text" | tail -n 1) || true
  if [ -n "$totals" ]; then
    bad=$(sed -E 's/.*Errors: ([0-9]+), Failed: ([0-9]+)/\1 + \2/' <<<"$totals"); bad=$((bad))
    good=$(($(sed -E 's/Total: ([0-9]+).*/\1/' <<<"$totals") - bad))
  else
    good=$(grep -E '^ *(Tests )? *.*[0-9]+ passed' <<<"$text" | grep -oE '[0-9]+ passed' | tail -n 1 | grep -oE '[0-9]+') || true
    bad=$(grep -E '^ *(Tests )? *[0-9]+ failed' <<<"$text" | grep -oE '[0-9]+ failed' | tail -n 1 | grep -oE '[0-9]+') || true
  fi
  if [ $code = 0 ] && [ "${bad:-0}" = 0 ]; then
    say "ok      $name"
    passed=$((passed + ${good:-1}))
  else
    say "FAILED  $name"
    tail -n 60 "$log" >&2
    passed=$((passed + ${good:-0}))
    failed=$((failed + (${bad:-0} > 0 ? ${bad:-0} : 1)))
  fi
}
# No line of code is longer than 200; one that is a sentence for people may be. A file of more than 350 says near its top why it is one.
lines() {
  local file
  while read -r file; do
    [ "$(wc -l <"$file")" -le 350 ] || head -n 60 "$file" | grep -q 'Longer than most' || { echo "${file#"$home"/} is longer than 350 lines and does not say why (“Longer than most: …”)."; return 1; }
  done < <(find "$home/src" -name '*.cs' -not -path '*/obj/*' -not -path '*/bin/*' -not -path '*/Migrations/*')
  local long; long=$(cd "$home" && grep -rnE '^.{201,}$' src --include='*.cs' --exclude-dir=obj --exclude-dir=bin --exclude-dir=Migrations | grep -vE '"[^"]{50,}')
  [ -z "$long" ] || { echo "Lines longer than 200:"; cut -c1-120 <<<"$long"; return 1; }
}
if [[ $parts == *dotnet* ]]; then
  for project in Core Formats Render Server Cli; do
    folder="$home/tests/Bradymotus.$project.Tests"
    step "tests-$project" "${props[@]}" src tests/Directory.Build.props tests/Repository.cs tests/Laws.cs "tests/Bradymotus.$project.Tests" -- dotnet build "$folder" -c Release -v q
    count "Bradymotus.$project" "$folder/bin/Release/net10.0/Bradymotus.$project.Tests" -noColor
  done
  count "lines" lines
  # Takes two minutes of one core: the checks of the interface, which take as much of another, go on beside it.
  dotnet format "$home/Bradymotus.slnx" --verify-no-changes --no-restore --severity warn >"$build/format.out" 2>&1 &
  formatting=$!
fi
formatted() {
  local code=0
  wait "$formatting" || code=$?
  cat "$build/format.out"
  return "$code"
}
if [[ $parts == *web* ]]; then
  count "svelte-check" npm --prefix "$home/web" run check
  count "lint" npm --prefix "$home/web" run lint
fi
[[ $parts != *dotnet* ]] || count "format" formatted
if [[ $parts == *web* ]]; then
  count "web and outside" npm --prefix "$home/web" run unit
fi
if [[ $parts == *e2e* ]]; then
  count "e2e" bash -c "cd '$home/web' && npx playwright test --config ../tests/e2e/playwright.config.ts"
fi
# One line that counts, for whoever reads the log.
say ""
printf '%s passed, %s failed\n' "$passed" "$failed"
[ "$failed" = 0 ]
