// Packs buffers by the independent library of the extension, and tells what its own reader makes of them.
// Standard input: JSON list of {mode, stride, count, version, filter, bits, values}; output: list of {packed, plain} in base64.
import { MeshoptDecoder, MeshoptEncoder } from "meshoptimizer";

await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]);
const filters = {
  OCTAHEDRAL: MeshoptEncoder.encodeFilterOct,
  QUATERNION: MeshoptEncoder.encodeFilterQuat,
  EXPONENTIAL: MeshoptEncoder.encodeFilterExp,
  COLOR: MeshoptEncoder.encodeFilterColor,
};
const chunks = [];
for await (const chunk of process.stdin) chunks.push(chunk);
const out = JSON.parse(Buffer.concat(chunks).toString()).map((one) => {
  const { mode, stride, count, version, filter, bits, values } = one;
  const source = filters[filter]
    ? filters[filter](new Float32Array(values), count, stride, bits)
    : new Uint8Array(Buffer.from(values, "base64"));
  const packed = MeshoptEncoder.encodeGltfBuffer(source, count, stride, mode, version);
  const plain = new Uint8Array(count * stride);
  MeshoptDecoder.decodeGltfBuffer(plain, count, stride, packed, mode, filter);
  const text = (bytes) => Buffer.from(bytes).toString("base64");
  return { packed: text(packed), plain: text(plain) };
});
console.log(JSON.stringify(out));
