// Numbers as the pages show them: no minus before what rounds to nothing.
const plain = (v, digits) => { const text = v.toFixed(digits); return Number(text) === 0 ? text.replace('-', '') : text; };
const length = (mm, digits) => plain(mm / D.mm_per_unit, digits) + ' ' + D.units;
const degrees = (angle, digits = 4) => plain(angle * 180 / Math.PI, digits) + '°';
// A transmission error: what is below the last bits of an angle is noise, and is not shown as a value.
const smallError = (v, digits) => (Math.abs(v) < 1e-8 ? '0' : v.toExponential(digits)) + D.error_unit;
