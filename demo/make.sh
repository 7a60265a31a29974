#!/usr/bin/env bash
# Makes the demo project with its runs and pulls kept. Usage: demo/make.sh BATHMOS_CLI FOLDER
# The folder is a copy, so that playing with the demo does not change the checkout; what is there stays.
set -euo pipefail
cli=$(realpath "$1")
mkdir -p "$2"
folder=$(realpath "$2")
cd "$(dirname "$0")/.."
cp -n demo/*.json demo/*.csv demo/*.h5 "$folder"
project=$folder/ashgill.bathmos
[ ! -e "$project" ] || exit 0

"$cli" import demo/project "$project"
"$cli" keep "$project" demo/ashgill-a22-intake-before.rig.csv --revision 1 --when 2026-01-15
"$cli" keep "$project" demo/ashgill-a22-intake-after.rig.csv --revision 2 --when 2026-04-16
for n in 1 2; do
    "$cli" keep-pull "$project" "demo/ashgill-a22-before-$n.pull.csv" --revision 1 --when 2026-01-20 --fuel "102 octane"
    "$cli" keep-pull "$project" "demo/ashgill-a22-after-$n.pull.csv" --revision 2 --when 2026-04-18 --fuel "102 octane"
    "$cli" keep-pull "$project" "demo/ravenmoor-t14-before-$n.pull.csv" --revision 4 --when 2026-03-10 --boost-kPa 55
done
for n in 1 2; do
    "$cli" keep-pull "$project" "demo/ravenmoor-t14-after-$n.pull.csv" --revision 4 --when 2026-03-24 --boost-kPa 68 \
        --changed "blower pulley 5 mm smaller"
done
"$cli" keep-sheet "$project" demo/spring-5.sheet.json --revision 2 --when 2026-04-19 --name "Spring 5 of the set"
"$cli" keep-sheet "$project" demo/spring-set.sheet.json --revision 2 --when 2026-04-19 --name "Set of springs after the season"
"$cli" keep-sheet "$project" demo/height-lot-2.sheet.json --revision 2 --when 2026-02-22 --name "Retainers of the second lot"
"$cli" keep-sheet "$project" demo/head.sheet.json --revision 2 --when 2026-02-22 --name "Heights of the head, to be shimmed"
"$cli" keep-sheet "$project" demo/ratio-short-rod.sheet.json --revision 2 --when 2026-02-22 --name "Ratio, rod as delivered"
"$cli" keep-sheet "$project" demo/ratio-long-rod.sheet.json --revision 2 --when 2026-02-22 --name "Ratio, rod 1.3 mm longer"
