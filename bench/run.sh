# Every benchmark, as ratios against a reference measured in the same run. Sourced by ./bradymotus bench.
build_cli
build_web
browser || exit 1
need /usr/include/embree3/rtcore.h libembree-dev
need g++ g++
step bench "${props[@]}" src/Bradymotus.Core src/Bradymotus.Formats src/Bradymotus.Render bench/Bradymotus.Bench -- dotnet build "$home/bench/Bradymotus.Bench" -c Release -v q
step embree bench/embree -- g++ -std=c++17 -O3 -march=native "$home/bench/embree/rays.cpp" -lembree3 -o "$build/embree-rays"
bench="$home/bench/Bradymotus.Bench/bin/Release/net10.0/Bradymotus.Bench"
results="$build/bench.jsonl"
: >"$results"
node -e '
  const keys = [];
  for (let i = 0; i <= 100; i++) keys.push({ frame: 10 * i, value: Math.round(1000 * Math.sin(i * 1.3)) / 100,
    in: { kind: "free", frames: -(2 + (i % 5)), value: ((i * 7) % 11) / 5 - 1 }, out: { kind: "free", frames: 2 + (i % 4), value: ((i * 5) % 9) / 4 - 1 } });
  console.log(JSON.stringify({ keys }));' >"$build/bench-curve.json"
run() { say "… $*"; "$@" 2>/dev/null | sed "s/{\"name\":\"/{\"name\":\"${label:-}/" >>"$results"; }
label="" run "$bench" curves "$build/bench-curve.json"
label="" run node "$home/bench/node/curves.mjs" "$build/bench-curve.json"
label="" run "$bench" random
label="" run "$bench" scene "$build/bench-scene.bin"
for _ in 1 2 3; do
  label="ours: " run taskset -c 0 "$bench" rays "$build/bench-scene.bin"
  label="embree: " run taskset -c 0 "$build/embree-rays" "$build/bench-scene.bin"
done
label="" run "$bench" draft "$home/demo/lantern-quay.shot.json"
label="" run "$bench" large
label="" run "$bench" edits
label="" run "$bench" light "$home"/demo/*.shot.json
label="" run "$bench" polish
label="" run node "$home/bench/node/browser.mjs"
mkdir -p "$build/bench-models"
node "$home/bench/node/models.mjs" "$build/bench-models"
label="" run "$bench" models "$build/bench-models"
label="" run node "$home/bench/node/models.mjs" "$build/bench-models" measure
node "$home/bench/node/table.mjs" "$results" "$build/bench.json"
