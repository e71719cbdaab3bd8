#!/usr/bin/env bash
# An hour of an administrator's work, without anybody watching: 30 accounts, three kinds of applications, questions, pauses, cancels, failures.
# Each command has to return within its bound, with the exit code that it should; the first that does not ends this with 1.
#   hour.sh FOLDER    accounts.csv, tidebook.zip, moorings.zip, berthplan.zip, quaystore.zip, key.txt; HIGHSHELF_* say which service
set -u -o pipefail
cd "$1" || exit 1
QUICK=20 CHECKED=180 INSTALLED=180
count=0 out=""

# run BOUND CODE WORDS...: what it printed is in $out
run() {
  local bound=$1 want=$2 got
  shift 2
  count=$((count + 1))
  out=$(timeout "$bound" "$PYTHON" -m highshelf "$@" 2>err.txt)
  got=$?
  if [ "$got" -ne "$want" ]; then
    echo "highshelf $*: ended with $got instead of $want (124: not within $bound s)"
    printf '%s\n' "$out" | tail -n 25
    cat err.txt
    [ "$1 $2" = "job follow" ] && "$PYTHON" -m highshelf job show "$3"
    exit 1
  fi
}

# has TEXT: what the last command printed, or told as its error
has() {
  if ! grep -qF -- "$1" <<<"$out" && ! grep -qF -- "$1" err.txt; then
    echo "the command before this should have said: $1"
    printf '%s\n' "$out" | tail -n 25
    cat err.txt
    exit 1
  fi
}

# field NAME: of the JSON that the last command printed
field() { jq -r ".$1" <<<"$out"; }

echo "== accounts"
run $QUICK 0 account import accounts.csv
run $QUICK 0 account import accounts.csv --keep
run $QUICK 2 account import accounts.csv --keep
run $QUICK 0 account list --limit 100
[ "$(wc -l <<<"$out")" -eq 30 ] || { echo "there are not 30 accounts"; exit 1; }
run $CHECKED 0 account check ferry-1 choir-1 yard-2 birds-1 birds-2
run $QUICK 2 account show feery-1
has "did you mean ferry-1?"

echo "== releases"
run $QUICK 0 release check-in tidebook.zip
run $QUICK 0 release check-in quaystore.zip
run $QUICK 0 release check-in moorings.zip --part modules/berthplan=berthplan.zip
run $QUICK 0 release match tidebook choir-1
run $QUICK 1 release check-in key.txt
run $QUICK 0 licence add moorings yard-2 --key-file key.txt

echo "== one after the other, and many at once"
run $INSTALLED 0 install tidebook ferry-1 --at /one --json
first=$(tail -n 1 <<<"$out" | jq -r '.installation // empty' 2>/dev/null)
[ -n "$first" ] || { run $QUICK 0 installation list --json; first=$(field 'items[0].id'); }
run $INSTALLED 1 install tidebook ferry-1 --at /one
has "is not empty"
jobs=()
for n in 1 2; do
  for who in choir seeds regatta birds; do
    run $QUICK 0 install tidebook "$who-$n" --at "/many$n" --no-follow --json
    jobs+=("$(field id)")
  done
done
for job in "${jobs[@]}"; do
  run $INSTALLED 0 job follow "$job" --quiet
done

echo "== questions"
run $INSTALLED 3 install tidebook ferry-2 --at /two --set 'site.title=?' --json
run $QUICK 0 job list --state waiting --json
asked=$(field 'items[0].id')
run $QUICK 0 job list --state waiting
# Whoever waits for an answer does not keep the others of the same host waiting.
run $INSTALLED 0 install tidebook ferry-3 --at /three --quiet
run $QUICK 3 job resume "$asked"
run $INSTALLED 0 job answer "$asked" "Ferry Two"
run $QUICK 0 installation list --find Two
has "/two/"
run $INSTALLED 3 install moorings yard-2 --at /harbour --set 'admin.password=@word.txt' --quiet
run $QUICK 0 job list --state waiting --json
run $INSTALLED 0 job answer "$(field 'items[0].id')" yes --quiet

echo "== pauses and cancels"
run $QUICK 0 install quaystore ferry-4 --at /shop --no-follow --json
shop=$(field id)
run $QUICK 0 job pause "$shop"
run $QUICK 0 job pause "$shop"
run $INSTALLED 3 job resume "$shop" --quiet
run $INSTALLED 0 job answer "$shop" yes --quiet
run $INSTALLED 3 install tidebook ferry-5 --at /five --set 'admin.email=?' --quiet
run $QUICK 0 job list --state waiting --json
gone=$(field 'items[0].id')
run $QUICK 2 job cancel "$gone"
has "--yes"
run $INSTALLED 0 job cancel "$gone" --yes
run $QUICK 1 job answer "$gone" nobody@saltmarsh.example
run $QUICK 0 job show "$gone"
has "cancelled"

echo "== failures"
run $INSTALLED 1 install tidebook lost-1 --at /lost --quiet
[ -z "$out" ] && [ -s err.txt ] || { echo "with --quiet an error is all that is told"; exit 1; }
run $QUICK 2 install nothing ferry-1
run $QUICK 2 install tidebook ferry-1 --set admin.password=in-clear
run $QUICK 2 install tidebook ferry-1 --wey files
has "--way"
run $QUICK 2 install moorings choir-2 --at /harbour --set accept.licence=yes
has "cannot be set"

echo "== afterwards"
run $QUICK 0 installation list --json --limit 100
[ "$(field 'total')" -ge 12 ] || { echo "only $(field total) installations"; exit 1; }
run $INSTALLED 0 installation recheck "$first"
run $QUICK 0 installation inspect "$first"
run $QUICK 0 installation sheet "$first" --customer --as json
run $INSTALLED 0 installation undo "$first" --yes
run $INSTALLED 0 install tidebook ferry-1 --at /one --quiet
run $QUICK 2 account forget birds-1
run $QUICK 0 record list
run $QUICK 0 strongbox verify
echo "$count commands, each within its bound"
