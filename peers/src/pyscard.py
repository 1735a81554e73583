"""Debian's python3-pyscard: waits for a card, prints its ATR, UID and ATS as JSON. Knows nothing of ours."""
import json
import time

from smartcard.System import readers

for _ in range(100):
    try:
        connection = readers()[0].createConnection()
        connection.connect()
        break
    except Exception:
        time.sleep(0.1)


def ask(which):
    data, sw1, sw2 = connection.transmit([0xFF, 0xCA, which, 0x00, 0x00])
    return bytes(data).hex().upper() if (sw1, sw2) == (0x90, 0x00) else None


print(json.dumps({"atr": bytes(connection.getATR()).hex().upper(), "uid": ask(0), "ats": ask(1)}))
connection.disconnect()
