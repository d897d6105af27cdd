#!/bin/sh
# views.sh: further views of the same scenes. Each line names a new picture, the scene it looks into,
# its size, its look and the camera that replaces the scene's own; render.sh then does the rest.
set -e
cd "$(dirname "$0")"
while IFS='|' read -r name scene w h look camera; do
  [ -n "$name" ] || continue
  [ "${1:-$name}" = "$name" ] || continue
  awk -v cam="camera { $camera }" '
    /^camera/ { print cam; skip = ($0 !~ /}/); next }
    skip { if ($0 ~ /}/) skip = 0; next }
    { print }' "$scene.pov" > "$name.pov"
  ./render.sh "$name" "$w" "$h" "$look" </dev/null
  rm "$name.pov"
done <<END
mooring-rope|jetty-planks|1800|1200|day|location <-0.75,0.40,-0.30> look_at <-0.10,0.06,0.66> right x*1.5 up y angle 42
boat-alone|calm-evening|1800|1200|calm|location <0.3,1.15,-3.4> look_at <1.5,0.95,2> right x*1.5 up y angle 40
dusk-rowing-boat|harbour-dusk|1800|1200|night|location <-1.7,1.5,-4.4> look_at <0.2,0.85,1.2> right x*1.5 up y angle 46
lantern-pair|lanterns-close|1200|1800|glow|location <-1.1,0.25,-2.5> look_at <-0.7,0.12,0> right x*(2/3) up y angle 34 aperture 0.08 blur_samples 25 focal_point <-.72,.1,-.4> confidence 0.95 variance 1/3000
night-reflections|night-lights|1200|1800|night|location <2,1.6,-5> look_at <2.5,2.2,20> right x*(2/3) up y angle 42
fog-lamps|fog-morning|1200|1800|fog|location <3.0,1.7,-5.5> look_at <1.2,1.7,8> right x*(2/3) up y angle 36
yellow-sail|regatta|1200|1800|day|location <0.8,1.5,-3.2> look_at <2.3,2.9,5.5> right x*(2/3) up y angle 46
regatta-wide|regatta|1800|1200|day|location <-8,3.4,-9> look_at <2,2.4,14> right x*1.5 up y angle 44
masthead|mast-lanterns|1200|1800|night|location <1.2,4.0,-4.0> look_at <0,6.7,2> right x*(2/3) up y angle 42
steps-close|quay-steps|1200|1800|night|location <.4,1.7,-2.9> look_at <-.35,1.55,2> right x*(2/3) up y angle 46
brush-jar|workbench|1200|1800|day|location <-.45,.60,-.85> look_at <-.02,.30,.62> right x*(2/3) up y angle 34
paint-pots|workbench|1800|1200|day|location <.02,.80,-.85> look_at <.02,.06,.18> right x*1.5 up y angle 40
END
