# Every test, after all set-up. Sourced by ./bradymotus test; PART names run only those: dotnet, web, e2e.
parts=${*:-dotnet web e2e}
build_cli
build_web
film
browser
# The tests find their packages beside the interface.
ln -sfn ../web/node_modules "$home/tests/node_modules"
failed=0
passed=0
count() { # NAME COMMAND…: runs it, keeps its log, adds up what it counts
  local name=$1; shift
  local log="$build/test-${name//[^A-Za-z0-9]/-}.log"
  if "$@" >"$log" 2>&1; then say "ok      $name"; else say "FAILED  $name"; tail -n 60 "$log" >&2; failed=$((failed + 1)); fi
  local n
  n=$(sed 's/\x1b\[[0-9;]*m//g' "$log" | grep -oE 'Total: [0-9]+|Tests +[0-9]+ passed|^ +[0-9]+ passed' | grep -oE '[0-9]+' | tail -n 1) || true
  passed=$((passed + ${n:-1}))
}
if [[ $parts == *dotnet* ]]; then
  for project in Core Render Server Cli; do
    folder="$home/tests/Bradymotus.$project.Tests"
    step "tests-$project" "${props[@]}" src tests/Directory.Build.props tests/Repository.cs "tests/Bradymotus.$project.Tests" -- dotnet build "$folder" -c Release -v q
    count "Bradymotus.$project" "$folder/bin/Release/net10.0/Bradymotus.$project.Tests" -noColor
  done
  count "format" dotnet format "$home/Bradymotus.slnx" --verify-no-changes --no-restore --severity warn
fi
if [[ $parts == *web* ]]; then
  count "svelte-check" npm --prefix "$home/web" run check
  count "lint" npm --prefix "$home/web" run lint
  count "web and outside" npm --prefix "$home/web" run unit
fi
if [[ $parts == *e2e* ]]; then
  count "e2e" bash -c "cd '$home/web' && npx playwright test --config ../tests/e2e/playwright.config.ts"
fi
# One line that counts, for whoever reads the log.
say ""
printf '%s passed, %s failed\n' "$((passed - failed))" "$failed"
[ "$failed" = 0 ]
