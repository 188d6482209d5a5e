#!/usr/bin/env bash
# Makes the sound and the picture of the demo's show anew (Debian: sox libsox-fmt-mp3 imagemagick): a slow chord an episode, nothing recorded.
set -euo pipefail
cd "$(dirname "$0")/hours-of-dark"
notes=(A2 C3 D3 E3 G3 A3 C4 D4)
for n in 1 2 3 4 5 6 7 8; do
  root=${notes[n - 1]}
  sox -n -r 22050 -c 1 -C 24 "hours-0$n.mp3" synth $((6 + n)) sine "$root" synth $((6 + n)) sine mix "%$((n - 9))" synth $((6 + n)) triangle mix "%$((n + 3))" \
    tremolo 0.$((2 + n % 5)) 40 fade q 1.5 $((6 + n)) 2 norm -9
done
convert -size 600x600 'radial-gradient:#2c3550-#0d111c' -fill '#e8b04a' -draw 'circle 300,330 300,250' -fill '#0d111c' -draw 'circle 330,310 330,236' \
  -fill '#f4ead5' -draw 'point 120,140' -draw 'circle 130,150 130,153' -draw 'circle 470,120 470,122' -draw 'circle 520,420 520,423' -draw 'circle 90,470 90,472' \
  -resize 400x400 -strip -quality 82 cover.jpg
