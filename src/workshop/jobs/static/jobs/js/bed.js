// The bed: drag the piece or move it with arrow keys; off the bed shows at once.

import { setAndPost } from './fields.js';

const HAIR = 1e-6;
const POST_AFTER_MS = 500;
const piece = () => document.querySelector('#piece');
const bed = () => document.querySelector('#bed');

let shift = { x: 0, y: 0 };
let dragged = null;
let resting = 0;

// Millimetres a screen pixel stands for; keeps lettering at its size too.
function scaleLetters() {
  const drawing = bed();
  if (!drawing?.clientWidth) return;
  const box = drawing.viewBox.baseVal;
  const k = Math.max(box.width / drawing.clientWidth, box.height / drawing.clientHeight);
  drawing.style.setProperty('--k', String(k));
  return k;
}

function point(event) {
  const drawing = bed();
  const matrix = drawing.getScreenCTM().inverse();
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
}

function show() {
  const element = piece();
  if (!element) return;
  element.setAttribute('transform', `translate(${shift.x} ${-shift.y})`);
  const data = element.dataset;
  const [left, front] = [Number(data.left) + shift.x, Number(data.front) + shift.y];
  const [width, height] = [Number(bed().dataset.width), Number(bed().dataset.height)];
  const [w, h, run] = [Number(data.w), Number(data.h), Number(bed().dataset.runUp)];
  const within = (reach) => left - reach >= -HAIR && left + w + reach <= width + HAIR;
  const deep = front >= -HAIR && front + h <= height + HAIR;
  element.classList.toggle('is-off', !(within(0) && deep));
  element.classList.toggle('is-tight', within(0) && deep && !within(run));
  const form = document.querySelector('#station-form');
  if (form?.elements.x) {
    const mm = document.querySelector('#pictures').dataset.unit === 'in' ? 25.4 : 1;
    const moved = (field, by) => String(Math.round((Number(field.defaultValue) + by / mm) * 1e5) / 1e5);
    form.elements.x.value = moved(form.elements.x, shift.x);
    form.elements.y.value = moved(form.elements.y, shift.y);
  }
}
const rounded = (value) => String(Math.round(value * 1000) / 1000);

function post() {
  clearTimeout(resting);
  resting = 0;
  if (!shift.x && !shift.y) return;
  const form = document.querySelector('#station-form');
  setAndPost({ x: form.elements.x.value, y: form.elements.y.value });
}

document.addEventListener('pointerdown', (event) => {
  const element = event.target.closest?.('#piece');
  if (!element) return;
  event.preventDefault();
  element.focus();
  const start = point(event);
  dragged = { id: event.pointerId, x: start.x - shift.x, y: start.y + shift.y };
  element.setPointerCapture(event.pointerId);
});
document.addEventListener('pointermove', (event) => {
  if (!dragged || event.pointerId !== dragged.id) return;
  const now = point(event);
  shift = { x: rounded(now.x - dragged.x) * 1, y: rounded(dragged.y - now.y) * 1 };
  show();
});
document.addEventListener('pointerup', (event) => {
  if (!dragged || event.pointerId !== dragged.id) return;
  dragged = null;
  post();
});
document.addEventListener('keydown', (event) => {
  if (event.target.id !== 'piece') return;
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
  if (!step) return;
  event.preventDefault();
  const mm = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
  shift = { x: shift.x + step[0] * mm, y: shift.y + step[1] * mm };
  show();
  clearTimeout(resting);
  resting = setTimeout(post, POST_AFTER_MS);
});

// The answer brings the piece at its new place; the keyboard stays on it.
let hadFocus = false;
document.addEventListener('htmx:beforeSwap', () => {
  hadFocus = document.activeElement?.id === 'piece';
});
document.addEventListener('htmx:afterSettle', () => {
  if (!resting && !dragged) shift = { x: 0, y: 0 };
  scaleLetters();
  if (hadFocus && document.activeElement === document.body) piece()?.focus();
});
addEventListener('resize', scaleLetters);
scaleLetters();
