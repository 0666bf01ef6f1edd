// The bed: drag the piece or move it with arrow keys; zoom and pan; edges snap.

import { holds, put } from '../../shell/js/ledger.js';
import { setAndPost } from './fields.js';
import { afterRest } from './frames.js';

const HAIR = 1e-6;
const POST_AFTER_MS = 500;
const SNAP_PX = 7;
const piece = () => document.querySelector('#piece');
const bed = () => document.querySelector('#bed');
const numbers = (text) => text.split(' ').map(Number);
const rounded = (value) => Math.round(value * 1000) / 1000;

let shift = { x: 0, y: 0 }; // how far the piece is shown from where the job has it
let aim = null; // where its left front corner is meant to lie; an answer may move the job under it
let dragged = null;
let panned = null;
let resting = 0;

// The window on the bed; whole when nothing is kept of it.
const KEY = () => `ember-bed-${bed().dataset.job}`;
const whole = () => numbers(bed().dataset.home);
function kept() {
  try {
    return JSON.parse(sessionStorage.getItem(KEY()));
  } catch {
    return null;
  }
}
function look(box) {
  const drawing = bed();
  const home = whole();
  const near = box && (box[2] < 0.98 * home[2] || box[3] < 0.98 * home[3]);
  const shown = near ? box : home;
  drawing.setAttribute('viewBox', shown.map((side) => side.toFixed(3)).join(' '));
  drawing.classList.toggle('is-near', Boolean(near));
  stripe(drawing);
  try {
    if (near) sessionStorage.setItem(KEY(), JSON.stringify(box));
    else sessionStorage.removeItem(KEY());
  } catch { /* private windows have no storage */ }
  scale();
}
// The run-up's stripes are as fine on a ring's small wall as on the whole bed.
const STRIPE_PX = 7;
const STRIPE_MM = 5;
function stripe(drawing) {
  const pixels = drawing.getScreenCTM()?.a;
  if (!pixels) return;
  const fine = STRIPE_PX / (STRIPE_MM * pixels);
  drawing.querySelector('#hatch').setAttribute('patternTransform', `rotate(45) scale(${fine})`);
}
const shown = () => numbers(bed().getAttribute('viewBox'));

function zoom(times, at = null) {
  const [left, top, width, height] = shown();
  const x = at ? (at.x - left) / width : 0.5;
  const y = at ? (at.y - top) / height : 0.5;
  const wide = Math.max(width / times, 4);
  const high = (wide * height) / width;
  look([left + (width - wide) * x, top + (height - high) * y, wide, high]);
}
function pan(x, y) {
  const [left, top, width, height] = shown();
  look([left + x * width, top + y * height, width, height]);
}
function onPiece() {
  const [left, front, right, back] = numbers(piece().dataset.blank);
  const deep = Number(bed().dataset.height);
  const room = 0.12 * Math.max(right - left, back - front);
  const turned = bed().classList.contains('is-turned');
  look(turned ? null : [left - room, deep - back - room, right - left + 2 * room, back - front + 2 * room]);
}

// Millimetres a screen pixel stands for; keeps lettering at its size too.
function scale() {
  const drawing = bed();
  // Without a height it would be drawn without an end.
  if (!drawing?.clientWidth || !drawing.clientHeight) return;
  const box = drawing.viewBox.baseVal;
  const k = Math.max(box.width / drawing.clientWidth, box.height / drawing.clientHeight);
  drawing.style.setProperty('--k', String(k));
  edges(k);
}

// Near, the rulers run along the edges of what is seen.
function edges(k) {
  const drawing = bed();
  const group = drawing.querySelector('#edges');
  group.replaceChildren();
  if (!drawing.classList.contains('is-near')) return;
  const wide = drawing.clientWidth * k;
  const high = drawing.clientHeight * k;
  const box = drawing.viewBox.baseVal;
  const left = box.x - (wide - box.width) / 2;
  const top = box.y - (high - box.height) / 2;
  const step = [0.5, 1, 2, 5, 10, 20, 50, 100].find((one) => one / k >= 62) ?? 100;
  const [zeroX, zeroY] = numbers(drawing.dataset.zero);
  const [signX, signY] = numbers(drawing.dataset.sign);
  const parts = [
    `<rect x="${left}" y="${top}" width="${wide}" height="${22 * k}"/><rect x="${left}" y="${top}" width="${34 * k}" height="${high}"/>`,
  ];
  const tell = (value) => String(Math.round(value * 100) / 100);
  for (let n = Math.ceil((left + 34 * k - zeroX) / step); n * step + zeroX < left + wide; n += 1) {
    const x = n * step + zeroX;
    parts.push(`<path d="M${x} ${top + 16 * k}V${top + 22 * k}"/><text x="${x}" y="${top + 13 * k}" text-anchor="middle">${tell(signX * n * step)}</text>`);
  }
  for (let n = Math.ceil((top + 22 * k - zeroY) / step); n * step + zeroY < top + high; n += 1) {
    const y = n * step + zeroY;
    parts.push(`<path d="M${left + 28 * k} ${y}H${left + 34 * k}"/><text x="${left + 26 * k}" y="${y + 4 * k}" text-anchor="end">${tell(-signY * n * step)}</text>`);
  }
  group.innerHTML = parts.join('');
}

function point(event) {
  const drawing = bed();
  const matrix = drawing.getScreenCTM().inverse();
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
}

const corner = () => {
  const [x, y] = numbers(piece().dataset.lies);
  return { x, y };
};
function moveTo(where) {
  aim = where;
  show();
}
function show() {
  const element = piece();
  if (!element) return;
  const lies = corner();
  shift = aim ? { x: rounded(aim.x - lies.x), y: rounded(aim.y - lies.y) } : { x: 0, y: 0 };
  element.setAttribute('transform', `translate(${shift.x} ${-shift.y})`);
  const [width, height] = [Number(bed().dataset.width), Number(bed().dataset.height)];
  const fits = ([left, front, right, back]) => left + shift.x >= -HAIR && right + shift.x <= width + HAIR
    && front + shift.y >= -HAIR && back + shift.y <= height + HAIR;
  const on = fits(numbers(element.dataset.lies));
  element.classList.toggle('is-off', !on);
  element.classList.toggle('is-tight', on && !fits(numbers(element.dataset.runs)));
  const form = document.querySelector('#station-form');
  if (form?.elements.x) {
    const mm = document.querySelector('#pictures').dataset.unit === 'in' ? 25.4 : 1;
    const by = (field, much) => String(Math.round((Number(field.defaultValue) + much / mm) * 1e5) / 1e5);
    for (const axis of ['x', 'y']) {
      const value = by(form.elements[axis], shift[axis]);
      if (form.elements[axis].value !== value) put(form, axis, value);
    }
  }
}

// Edges and middles of the blank are drawn to edges, middles, points and marks.
function snapped(free, alone) {
  const guides = document.querySelector('#guides');
  guides.removeAttribute('d');
  if (alone || bed().classList.contains('is-turned')) return free;
  const [left, front, right, back] = numbers(piece().dataset.blank);
  const targets = JSON.parse(bed().dataset.snaps);
  const k = Number(bed().style.getPropertyValue('--k')) || 1;
  const nearest = (own, wanted, much) => {
    let best = null;
    for (const at of own) {
      for (const to of wanted) {
        const off = to - (at + much);
        if (Math.abs(off) < SNAP_PX * k && (!best || Math.abs(off) < Math.abs(best.off))) best = { off, to };
      }
    }
    return best;
  };
  const x = nearest([left, (left + right) / 2, right], targets.x, free.x);
  const y = nearest([front, (front + back) / 2, back], targets.y, free.y);
  const deep = Number(bed().dataset.height);
  const lines = [x && `M${x.to} 0V${deep}`, y && `M0 ${deep - y.to}H${bed().dataset.width}`];
  guides.setAttribute('d', lines.filter(Boolean).join(''));
  return { x: rounded(free.x + (x?.off ?? 0)), y: rounded(free.y + (y?.off ?? 0)) };
}

function post() {
  clearTimeout(resting);
  resting = 0;
  document.querySelector('#guides')?.removeAttribute('d');
  if (!shift.x && !shift.y) return;
  const form = document.querySelector('#station-form');
  setAndPost({ x: form.elements.x.value, y: form.elements.y.value });
}

document.addEventListener('pointerdown', (event) => {
  const drawing = event.target.closest?.('#bed');
  if (!drawing || event.target.closest('.ring')) return;
  const element = event.target.closest('#piece');
  event.preventDefault();
  (element ?? drawing).focus();
  const start = point(event);
  const lies = element && (aim ?? corner());
  if (element) dragged = { id: event.pointerId, x: start.x - lies.x, y: start.y + lies.y };
  else panned = { id: event.pointerId, x: event.clientX, y: event.clientY };
  (element ?? drawing).setPointerCapture(event.pointerId);
});
document.addEventListener('pointermove', (event) => {
  if (panned?.id === event.pointerId) {
    const k = Number(bed().style.getPropertyValue('--k'));
    const [, , width, height] = shown();
    pan(((panned.x - event.clientX) * k) / width, ((panned.y - event.clientY) * k) / height);
    panned = { ...panned, x: event.clientX, y: event.clientY };
  }
  if (!dragged || event.pointerId !== dragged.id) return;
  const now = point(event);
  const lies = corner();
  const free = { x: rounded(now.x - dragged.x - lies.x), y: rounded(dragged.y - now.y - lies.y) };
  const found = snapped(free, event.altKey);
  moveTo({ x: lies.x + found.x, y: lies.y + found.y });
});
document.addEventListener('pointerup', (event) => {
  if (panned?.id === event.pointerId) panned = null;
  if (!dragged || event.pointerId !== dragged.id) return;
  dragged = null;
  post();
});
// A hand that the browser takes for scrolling moved nothing.
document.addEventListener('pointercancel', (event) => {
  if (panned?.id === event.pointerId) panned = null;
  if (dragged?.id !== event.pointerId) return;
  dragged = null;
  document.querySelector('#guides')?.removeAttribute('d');
  aim = null;
  show();
});
document.addEventListener('wheel', (event) => {
  if (!event.target.closest?.('#bed')) return;
  event.preventDefault();
  zoom(event.deltaY < 0 ? 1.25 : 0.8, point(event));
}, { passive: false });
document.addEventListener('click', (event) => {
  const button = event.target.closest?.('[data-bed]');
  if (!button) return;
  ({ whole: () => look(null), piece: onPiece, in: () => zoom(1.5), out: () => zoom(1 / 1.5) })[button.dataset.bed]();
});
document.addEventListener('keydown', (event) => {
  if (event.target.id !== 'bed') return;
  const act = {
    '+': () => zoom(1.25), '-': () => zoom(0.8), 0: () => look(null), ArrowLeft: () => pan(-0.1, 0),
    ArrowRight: () => pan(0.1, 0), ArrowUp: () => pan(0, -0.1), ArrowDown: () => pan(0, 0.1),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  event.stopPropagation();
  act();
}, true);
document.addEventListener('keydown', (event) => {
  if (event.target.id !== 'piece') return;
  const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
  if (!step) return;
  event.preventDefault();
  const mm = event.shiftKey ? 10 : event.altKey ? 0.1 : 1;
  const from = aim ?? corner();
  moveTo({ x: from.x + step[0] * mm, y: from.y + step[1] * mm });
  clearTimeout(resting);
  resting = afterRest(post, POST_AFTER_MS);
});

// The piece rolled up, turned by its slider; the angle outlasts an answer.
let rolled = 0;
function roll() {
  const figure = document.querySelector('#rolled');
  if (!figure) return;
  figure.querySelector('input').value = rolled;
  figure.querySelector('input').style.setProperty('--v', `${(rolled + 180) / 3.6}%`);
  figure.querySelector('output').textContent = `${rolled}°`;
  const picture = `${figure.dataset.base}?turn=${rolled}`;
  if (!figure.querySelector('img').src.endsWith(picture)) figure.querySelector('img').src = picture;
}
document.addEventListener('input', (event) => {
  if (event.target.id !== 'rolled-turn') return;
  rolled = Number(event.target.value);
  roll();
});

function begin() {
  const drawing = bed();
  if (!drawing) return;
  if (!drawing.dataset.home) {
    drawing.dataset.home = drawing.getAttribute('viewBox');
    look(kept());
  }
}
// An answer may bring the piece where the job has it by now, and a newer move be on its way.
function settle() {
  if (!piece()) [aim, resting] = [null, 0]; // the station was left, and what was moved sent
  if (!aim) return;
  const field = document.querySelector('#station-form')?.elements.x;
  if (!resting && !dragged && !(field && holds(field))) aim = null;
  show();
}
// The answer brings the piece at its new place; the keyboard stays on it.
let hadFocus = '';
document.addEventListener('htmx:beforeSwap', () => {
  const id = document.activeElement?.id;
  hadFocus = ['piece', 'bed'].includes(id) ? id : '';
});
document.addEventListener('htmx:afterSettle', () => {
  settle();
  begin();
  scale();
  roll();
  if (hadFocus && document.activeElement === document.body) document.getElementById(hadFocus)?.focus();
});
addEventListener('resize', scale);
begin();
scale();
