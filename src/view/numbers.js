// Numbers as the pages show them: no minus before what rounds to nothing.
const plain = (v, digits) => { const text = v.toFixed(digits); return Number(text) === 0 ? text.replace('-', '') : text; };
const length = (mm, digits) => plain(mm / D.mm_per_unit, digits) + ' ' + D.units;
const degrees = (angle, digits = 4) => plain(angle * 180 / Math.PI, digits) + '°';
