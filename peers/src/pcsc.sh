#!/usr/bin/env bash
# One card behind Debian's virtual reader, away from the machine's own service: in a network and a mount of its own.
# pcsc.sh FOLDER KIND PORT: FOLDER has card.cjs and host.cjs. Prints what our host and python3-pyscard found.
set -eu
folder=$1 kind=$2 port=$3
ip link set lo up
mount -t tmpfs tmpfs /run
mkdir -p /run/pcscd
conf=$folder/reader-$kind.conf
cat >"$conf" <<CONF
FRIENDLYNAME "Virtual"
DEVICENAME /dev/null:0x$(printf %04X "$port")
LIBPATH /usr/lib/pcsc/drivers/serial/libifdvpcd.so
CHANNELID 0x$(printf %04X "$port")
CONF
/usr/sbin/pcscd -f -c "$conf" >"$folder/pcscd-$kind.log" 2>&1 &
service=$!
node "$folder/card.cjs" "$kind" "$port" &
card=$!
trap 'kill $service $card 2>/dev/null || true' EXIT
/usr/bin/python3 "$(dirname "${BASH_SOURCE[0]}")/pyscard.py"
node "$folder/host.cjs" "$kind"
