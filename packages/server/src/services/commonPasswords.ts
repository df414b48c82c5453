/**
 * Words that common passwords are made of: what people type first, rows of the keyboard, and what stands around this
 * application. A password that is nothing but these, with digits and signs between, is as good as known.
 */
export const COMMON_WORDS: readonly string[] =
  `password passwort passphrase passcode passwd letmein welcome willkommen bienvenue admin administrator root superuser user
username login signin master default changeme change secret private access system server service support test testing temp
temporary guest public demo example sample qwerty qwertz azerty qwert asdf asdfgh asdfghjkl zxcv zxcvbn zxcvbnm qazwsx qwertyuiop
abc abcd abcdef iloveyou love lovely sunshine princess dragon monkey football baseball basketball soccer hockey superman batman
spiderman starwars pokemon trustno shadow michael jordan jennifer jessica daniel charlie thomas robert george andrew joshua
matthew ashley nicole hannah summer winter spring autumn january february march april june july august september october
november december monday tuesday wednesday thursday friday saturday sunday hello freedom whatever computer internet network
router switch ethernet fabric spine leaf datacenter datacentre anthemion vxlan evpn bgp operator designer approver
onlooker company office mustang ferrari porsche harley yankees dallas eagles tigger pepper ginger cookie cheese banana orange
apple chocolate coffee flower butterfly diamond silver golden purple yellow green blue black white killer hunter ranger buster
soccer maggie bailey lucky happy angel baby money jesus christ god heaven blessed forever family mother father my the is this
please enter here now new old year time`
    .split(/\s+/)
    .filter(Boolean);

/** Whole passwords of a good length that are on everybody's list. */
export const COMMON_PHRASES: readonly string[] = [
  'correcthorsebatterystaple',
  'tobeornottobe',
  'maytheforcebewithyou',
  'thequickbrownfox',
  'thequickbrownfoxjumpsoverthelazydog',
  'supercalifragilisticexpialidocious',
  'iloveyouforever',
  'opensesame',
  'abracadabra',
];
