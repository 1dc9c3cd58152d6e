// What pages in space share.
function decode(text, Type) {
  const raw = atob(text), bytes = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i);
  return new Type(bytes.buffer);
}
/** The library renamed this once. */
function inverseOf(m) { const r = new THREE.Matrix4(); return r.invert ? r.copy(m).invert() : r.getInverse(m); }
/** A scene on our paper, z upwards, with light from above and a sun that the page moves. */
function lit(stage) {
  const renderer = new THREE.WebGLRenderer({ antialias: true, preserveDrawingBuffer: true });
  renderer.setClearColor(0xfbfaf6);
  renderer.domElement.setAttribute('aria-label', 'the solids in space');
  stage.appendChild(renderer.domElement);
  const scene = new THREE.Scene(), camera = new THREE.PerspectiveCamera(28, 1, 0.1, 100000), sun = new THREE.DirectionalLight(0xffffff, 0.55);
  camera.up.set(0, 0, 1);
  scene.add(new THREE.HemisphereLight(0xffffff, 0xcfccc0, 0.85), sun);
  return { renderer, scene, camera, sun };
}
