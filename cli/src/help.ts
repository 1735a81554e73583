export const HELP = `rawbits: card formats, keys and chips from the command line. JSON lines in, one JSON line out for each.

  rawbits read     {"text":"28E4694 26 bits","lengths":[26,37],"print":"9034"}, a read in any notation;
                   "lengths" (in use at the site) and "print" (on the card) optional
                   -> {"readings":[{"notation":"hex","bits":"…","length":26,"why":"…",
                       "fits":[{"format":"26-8-16","fit":"full","values":{…},"print":"agrees"}]}]}, best first;
                   with "passedOver" where the read stands within other words
  rawbits decode   {"bits":"0101…"} or {"hex":"…","length":26,"justified":"right"},
                   optionally "formats":["26-8-16"] of the library, "layout":"26 | 1 even 2-13 | …",
                   or "file":"formats.json", a file of formats as Raw Bits writes it
                   -> {"length":26,"fits":[{"format":…,"fit":"full","values":{…},"parity":[…],"reason":…}]}
                   and "print", where the format says that something else than its number is printed.
                   Full fits come first. With "formats", each of them is answered, those that do not fit
                   with "fit":"none"; without, only full and part fits. Hex is right-justified unless told.
  rawbits encode   {"format":"26-8-16","values":{"facility":"71","number":"9034"}}
                   or "layout":"26 | 1 even 2-13 | …" in place of "format"
                   -> {"bits":"…","hex":"…","length":26}   (hex right-justified)
  rawbits format   {"layout":"26 | …"} or {"format":{…}}
                   -> {"format":{…},"layout":"…","problems":[…],"masks":{"number":"0000…","parity@1":"…"},
                       "settings":[{"item":"number","setting":"length","value":"16"},…]}
                   optionally "offset":"100", a number that the controller adds
  rawbits translate {"pairs":[{"a":"…","b":"…"},…]}, what two devices show for the same cards, in any notation
                   -> {"explanations":[{"translation":{…},"direction":"a to b","words":…,"unexplained":[]}],
                       "more":0,"cards":2,"settle":null}, the simplest first; one card settles nothing
  rawbits identify {"specimens":[{"bits":"…","printed":"40731"},…],"predict":["40800"]}
                   a specimen optionally with "facility", "group", further "prints", "lengthKnown":false;
                   optionally "formats", "range":["118400","118599"] of the box, "atHand":[…] for the tie-breaker, "setAside":[rows]
                   -> {"length":37,"checks":2,"range":{"from","to","of","proven":37,"settled":151,"likely":12,"open":0},
                       "family":{"size":"6.1e31","survivors":"2"},"bits":[{"at":1,"standing":"proven","xorOf":[0,3],"plus":1,"role":{…}}],
                       "layouts":[…],"known":[…],"predictions":[{"printed","bits","standing","odds","rival","checks"}],
                       "tieBreaker":{"printed","gain","until","words",…},"suspects":[{"rows":[7],"kind":"mistyped print","mend":[{"row":7,"printed":"…"}],"odds","words"}]}
                   gain in bits: how open the card's bits are; until: how many more cards the box most likely takes.
                   With suspects the rest is said as it is with the first one put right ("assuming").
                   xorOf names number bits by their power of two; bits is null where a prediction is open.
  rawbits key      {"do":"diversify","kind":"aes128","key":"…","uid":"…","application":"…","system":"…"} -> {"key":"…"}
                   {"do":"kcv","kind":"tdes2","key":"…","of":"zeros"} -> {"kcv":"…"}, also "of":"cmac"
                   {"do":"cmac","key":"…","message":"…"} -> {"mac":"…"}   (AES-128)
                   {"do":"directory","block1":"…","block2":"…"} -> {"crc":"…","holds":true,"applications":[…]}
                   For test keys: what is typed here is seen by whoever sees this screen.
  rawbits chip     one simulated card for the run; a line is answered before the next is read
                   {"blank":{"kind":"files","generation":2,"masterKey":"aes128","uid":"04…"}} first, or
                   {"blank":{"kind":"sectors","size":"1K"}}; a file-system card of generation 2 without it
                   {"apdu":"9060000000"} -> {"answer":"…91AF"}, native or wrapped
                   {"random":"…"} the bytes that the card draws next (RndB, then a transaction identifier); zeros without
                   {"auth":{"block":4,"key":"A","value":"FFFFFFFFFFFF"}}, {"read":4}, {"write":4,"data":"…"},
                   {"increment":4,"by":1}, {"decrement":4,"by":1}, {"restore":4}, {"transfer":5}
                   -> {"answer":"…"} or {"refused":"not allowed"}
                   {"blank":{"kind":"tag","data":"06001259E3","rate":64}}: {"read":1}, {"write":1,"data":"…","password":"…"},
                   {"hear":{"rate":64,"modulation":"manchester"}} -> {"answer":"06001259E3"}, as a reader set up so
                   {"tear":"before"} or "after": the next command is torn, before it or with its answer lost
                   {"dump":true} -> {"memory":{…}} without keys
                   or "during": torn while it writes, a block written in place may then hold anything
  rawbits plan     {"plan":{"schema":"rawbits/plan@1",…}} -> {"problems":[…],"bytes":{"used":…,"free":…},
                   "reach":[{"keys":["…"],"can":["…"]}],"assertions":[{"holds":false,"by":["905A…"]}]}
                   keys stand in a plan by their names; "keys":[["a","b"]] asks about those sets of them; "kind" is "files", "sectors" or "tag"
  rawbits --help   this text
  rawbits --version
  --strict         behind a command: exit 1 when a line could not be answered

Positions count from 1, the first bit sent. Numbers are decimal strings. A line that cannot be answered gives
{"error":{"code","message","where"}} in its place and the rest go on.

  echo '{"hex":"28E4694","length":26}' | rawbits decode
  echo '{"text":"bits=26 data=028E4694","print":"9034"}' | rawbits read
  echo '{"format":"26-8-16","values":{"facility":"71","number":"9034"}}' | rawbits encode
  echo '{"layout":"26 | 2-9 facility | 10-25 number"}' | rawbits format
`;
