#!/bin/sh
# Verifies the signature of an exported record with openssl alone: verify-record.sh RECORD.json
# docs/formats.md, "The signed message", says what is signed, byte for byte. Prints the school and the
# time, and exits with 0 where the signature is sound. It does not follow the chain; "maestrale verify"
# does.
set -eu
file=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
last=$(tail -n 1 "$file")
member() { printf '%s\n' "$last" | sed -n "s/.*\"$1\":\"\\([^\"]*\\)\".*/\\1/p"; }
case $last in
'"signature": {"algorithm":"Ed25519",'*) ;;
*) echo "$file: the last line is no Ed25519 signature; expected an exported record" >&2; exit 2 ;;
esac
# Every byte before the line break that stands before the last line.
size=$(wc -c <"$file")
tail=$(tail -n 1 "$file" | wc -c)
hash=$(head -c $((size - tail - 1)) "$file" | openssl dgst -sha256 -r | cut -c 1-64)
printf 'maestrale-record/1\n%s\n%s\n%s\n' "$hash" "$(member school)" "$(member at)" >"$work/message"
member value | openssl base64 -d -A >"$work/signature"
# An Ed25519 public key in DER is this prefix and its 32 bytes (RFC 8410).
{
    printf '\060\052\060\005\006\003\053\145\160\003\041\000'
    member key | openssl base64 -d -A
} | openssl pkey -pubin -inform DER -out "$work/key.pem"
openssl pkeyutl -verify -pubin -inkey "$work/key.pem" -rawin -in "$work/message" -sigfile "$work/signature" >/dev/null
echo "signed by $(member school) at $(member at)"
