// Rulers along the table's edges, in mm or inches from the blank's front left corner.

export const RULER = { x: 32, y: 26 };

const STEPS = [0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200];
const MM = { mm: 1, in: 25.4 };

export function drawRulers(context, width, height, view, piece, aim) {
  const { unit } = document.querySelector('#pictures').dataset;
  const scale = view.scale * MM[unit];
  const step = STEPS.find((s) => s * scale >= 46 && (unit === 'in' || s >= 0.5)) ?? 500;
  const style = { ground: '#342f2a', tick: '#a89d8e', text: '#c3b9aa', here: '#ff8450' };
  context.fillStyle = style.ground;
  context.fillRect(0, 0, width, RULER.y);
  context.fillRect(0, 0, RULER.x, height);
  context.font = '11px Archivo, sans-serif';
  context.lineWidth = 1;
  const zeroY = view.y + piece.height * view.scale;
  ticks(step / 10, view.x, width, (at, n) => {
    if (at < RULER.x) return;
    line(context, style.tick, at, RULER.y - size(n), at, RULER.y);
    if (n % 10 === 0) label(context, style.text, text((n * step) / 10), at, 10, 'center');
  }, scale);
  ticks(step / 10, -zeroY, height, (at, n) => {
    if (at < RULER.y) return;
    line(context, style.tick, RULER.x - size(n), at, RULER.x, at);
    if (n % 10 === 0) label(context, style.text, text((n * step) / 10), RULER.x - 11, at, 'right');
  }, scale, zeroY);
  if (aim) {
    line(context, style.here, aim.x, 14, aim.x, RULER.y, 2);
    line(context, style.here, 18, aim.y, RULER.x, aim.y, 2);
  }
  context.fillStyle = style.ground;
  context.fillRect(0, 0, RULER.x, RULER.y);
  label(context, style.text, unit, RULER.x / 2, RULER.y / 2, 'center');
}

// Calls back with screen positions of every tick in sight; n counts tenths of a step.
function ticks(every, origin, length, draw, scale, flipped = null) {
  const gap = every * scale;
  if (flipped === null) {
    for (let n = Math.floor(-origin / gap); origin + n * gap <= length; n += 1) draw(origin + n * gap, n);
  } else {
    for (let n = Math.floor((flipped - length) / gap); flipped - n * gap >= 0; n += 1) draw(flipped - n * gap, n);
  }
}
const size = (n) => (n % 10 === 0 ? 9 : n % 5 === 0 ? 6 : 3);
const text = (value) => String(Math.round(value * 100) / 100);

function line(context, colour, x0, y0, x1, y1, width = 1) {
  context.strokeStyle = colour;
  context.lineWidth = width;
  context.beginPath();
  context.moveTo(Math.round(x0) + 0.5, Math.round(y0) + 0.5);
  context.lineTo(Math.round(x1) + 0.5, Math.round(y1) + 0.5);
  context.stroke();
}
function label(context, colour, words, x, y, align) {
  context.fillStyle = colour;
  context.textAlign = align;
  context.textBaseline = 'middle';
  context.fillText(words, x, y);
}
