import * as jose from 'jose';
const out = { madeWith: 'npm jose ' + (await import('./node_modules/jose/package.json', {with:{type:'json'}}).catch(()=>({default:{version:'?'}}))).default.version, tokens: [] };
const claims = { sub: 'keeper-17', role: 'member' };
for (const alg of ['HS256','HS384','HS512']) {
  const secret = new TextEncoder().encode('a secret of the register that has sixty-four bytes, more or less '.padEnd(70,'x'));
  const t = await new jose.SignJWT(claims).setProtectedHeader({alg}).setIssuedAt(1767225600).setExpirationTime(1767229200).sign(secret);
  out.tokens.push({alg, token: t, key: new TextDecoder().decode(secret)});
}
for (const alg of ['RS256','RS512','PS256','PS384','ES256','ES384','ES512','EdDSA']) {
  const { publicKey, privateKey } = await jose.generateKeyPair(alg, {extractable:true});
  const t = await new jose.SignJWT(claims).setProtectedHeader({alg, kid:'k1'}).setIssuedAt(1767225600).setExpirationTime(1767229200).sign(privateKey);
  const jwk = await jose.exportJWK(publicKey); jwk.kid='k1';
  out.tokens.push({alg, token: t, jwk, pem: await jose.exportSPKI(publicKey)});
}
console.log(JSON.stringify(out,null,1));
