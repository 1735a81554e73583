"""Debian's python3-jwcrypto, which knows nothing of ours: `open` a backup of keys, or `make` one. Passphrase and file by lines."""
import sys

from jwcrypto import jwe, jwk
from jwcrypto.common import base64url_encode, json_encode

what, first, second = sys.argv[1:4]
key = jwk.JWK(kty="oct", k=base64url_encode(f"{first}\n{second}"))
if what == "open":
    token = jwe.JWE(algs=["PBES2-HS512+A256KW", "A256GCM"])
    token.deserialize(sys.stdin.read().strip(), key)
    print(token.payload.decode())
else:
    header = json_encode({"alg": "PBES2-HS512+A256KW", "enc": "A256GCM", "cty": "jwk-set+json"})
    token = jwe.JWE(sys.stdin.read().encode(), protected=header, algs=["PBES2-HS512+A256KW", "A256GCM"])
    token.add_recipient(key)
    print(token.serialize(compact=True))
