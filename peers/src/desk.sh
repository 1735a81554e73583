#!/usr/bin/env bash
# A desk with one card on Debian's virtual reader, in a network and a mount of its own, from which it reaches the server by
# way of a socket file. desk.sh FOLDER PORT SOCKET: FOLDER has card.cjs, way.cjs and desk.mjs; the token is in the environment.
set -eu
folder=$1 port=$2 socket=$3
ip link set lo up
mount -t tmpfs tmpfs /run
mkdir -p /run/pcscd
conf=$folder/reader-desk.conf
cat >"$conf" <<CONF
FRIENDLYNAME "Virtual"
DEVICENAME /dev/null:0x$(printf %04X "$port")
LIBPATH /usr/lib/pcsc/drivers/serial/libifdvpcd.so
CHANNELID 0x$(printf %04X "$port")
CONF
/usr/sbin/pcscd -f -c "$conf" >"$folder/pcscd-desk.log" 2>&1 &
service=$!
node "$folder/card.cjs" files "$port" &
card=$!
node "$folder/way.cjs" 8200 "$socket" &
way=$!
trap 'kill $service $card $way 2>/dev/null || true' EXIT
for _ in $(seq 100); do [ -S /run/pcscd/pcscd.comm ] && break; sleep 0.1; done
node "$folder/desk.mjs" --server http://127.0.0.1:8200 &
desk=$!
trap 'kill $desk $service $card $way 2>/dev/null || true' EXIT
wait $desk
