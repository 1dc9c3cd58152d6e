// A picture to be moved and looked into: wheel or two fingers larger, dragging moves.
const stage = document.getElementById('stage'), picture = document.getElementById('picture');
let wide = 1, x = 0, y = 0;
const fingers = new Map();

const place = () => {
  picture.style.width = wide + 'px';
  picture.style.transform = `translate(${x}px, ${y}px)`;
};
function fit() {
  const ratio = picture.naturalHeight / picture.naturalWidth || 0.625;
  wide = Math.min(stage.clientWidth, stage.clientHeight / ratio);
  x = (stage.clientWidth - wide) / 2;
  y = (stage.clientHeight - wide * ratio) / 2;
  place();
}
function larger(factor, px, py) {
  const next = Math.min(Math.max(wide * factor, 200), 60000), by = next / wide;
  x = px - (px - x) * by;
  y = py - (py - y) * by;
  wide = next;
  place();
}
stage.addEventListener('wheel', e => {
  e.preventDefault();
  const box = stage.getBoundingClientRect();
  larger(Math.exp(-e.deltaY / 400), e.clientX - box.left, e.clientY - box.top);
}, { passive: false });
stage.addEventListener('pointerdown', e => {
  stage.setPointerCapture(e.pointerId);
  fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
});
stage.addEventListener('pointermove', e => {
  const before = fingers.get(e.pointerId);
  if (!before) return;
  if (fingers.size === 1) {
    x += e.clientX - before.x;
    y += e.clientY - before.y;
    place();
  } else {
    const other = [...fingers].find(([id]) => id !== e.pointerId)[1], box = stage.getBoundingClientRect();
    const apart = p => Math.hypot(p.x - other.x, p.y - other.y);
    larger(apart({ x: e.clientX, y: e.clientY }) / Math.max(apart(before), 1), other.x - box.left, other.y - box.top);
  }
  fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
});
for (const end of ['pointerup', 'pointercancel']) stage.addEventListener(end, e => fingers.delete(e.pointerId));
document.getElementById('whole').onclick = fit;
addEventListener('resize', fit);
picture.decode().then(fit, fit);
