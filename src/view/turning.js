// What turns does so alike on every page: `advance(seconds)` is the page's own. Never more than one picture is asked for.
const motion = { last: null, asked: false, pace: 0, word: 'Turn' };  // pace: least time between two pictures [ms]
var waits = false;  // another state is on its way: no pictures until it is there
function run(on) {
  state.running = on; $('run').textContent = on ? 'Pause' : motion.word;
  motion.last = null;
  if (on) askTick();
}
function askTick() { if (!motion.asked) { motion.asked = true; requestAnimationFrame(tick); } }
function tick(time) {
  motion.asked = false;
  if (!state.running) return;
  if (waits) motion.last = null;
  else if (motion.last === null || time - motion.last >= motion.pace) {
    if (motion.last !== null) advance(Math.min(Math.max(100, motion.pace), time - motion.last) / 1000);
    motion.last = time;
  }
  askTick();
}
