// What the browser works out for a form: node work.mjs SEAL BITS
import { createHash } from 'node:crypto';

const [seal, bits] = process.argv.slice(2);
for (let n = 0; ; n++) {
  const digest = createHash('sha256').update(`${seal}:${n.toString(36)}`).digest();
  if (Math.clz32(digest.readUInt32BE()) >= Number(bits)) {
    console.log(n.toString(36));
    break;
  }
}
