// What pages in space share.
function decode(text, Type) {
  const raw = atob(text), bytes = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i);
  return new Type(bytes.buffer);
}
/** The library renamed this once. */
function inverseOf(m) { const r = new THREE.Matrix4(); return r.invert ? r.copy(m).invert() : r.getInverse(m); }
