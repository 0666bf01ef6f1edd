// The points of the tone curve: set, dragged, moved by keys, taken away.

import { put } from '../../shell/js/ledger.js';
import { postLive } from './fields.js';
import { afterRest } from './frames.js';
import { post } from './line.js';

const OFF_PX = 28; // pulled so far off the graph, a point goes
const $ = (selector) => document.querySelector(selector);
const clip = (value, low, high) => Math.min(Math.max(value, low), high);

let points = [];
let dragged = null;

const form = () => $('#station-form');
const STRAIGHT = [[0, 0], [255, 255]];

function read() {
  const text = form()?.elements.curve?.value;
  points = text ? JSON.parse(text) : [];
}
function write() {
  const straight = JSON.stringify(points) === JSON.stringify(STRAIGHT);
  put(form(), 'curve', straight ? '' : JSON.stringify(points));
}

// What enters the curve at each code, and what leaves it at last: the graph
// shows the whole way from source to toned.
function ways() {
  const { entering, low, high } = $('#curve').dataset;
  return { table: entering.split(' ').map(Number), low: Number(low), high: Number(high) };
}
function shownAt([x, y]) {
  const { table, low, high } = ways();
  let at = table.findIndex((value) => value >= x - 0.05);
  if (at < 0) at = 255;
  // Where all below is black anyway, the point stands at the last of it.
  while (at < 255 && table[at + 1] <= x + 0.05) at += 1;
  return { left: (at / 255) * 100, top: 100 - ((low + ((high - low) * y) / 255) / 255) * 100 };
}
function pointAt(event) {
  const box = $('#curvebox').getBoundingClientRect();
  const { table, low, high } = ways();
  const code = clip(Math.round(((event.clientX - box.left) / box.width) * 255), 0, 255);
  const out = 255 * (1 - (event.clientY - box.top) / box.height);
  const y = high === low ? 128 : ((out - low) / (high - low)) * 255;
  return [Math.round(table[code]), Math.round(clip(y, 0, 255))];
}

// A point stays right of the one before it and left of the one after.
function move(index, [x, y]) {
  const least = index ? points[index - 1][0] + 1 : 0;
  const most = index < points.length - 1 ? points[index + 1][0] - 1 : 255;
  points[index] = [clip(x, least, most), clip(y, 0, 255)];
}

function insert([x, y]) {
  if (!points.length) points = STRAIGHT.map((pair) => [...pair]);
  const at = points.findIndex(([other]) => other >= x);
  const index = at < 0 ? points.length : at;
  if (points[index]?.[0] === x) {
    points[index][1] = y;
    return index;
  }
  if (points.length >= Number($('#curvebox').dataset.most)) return -1;
  points.splice(index, 0, [x, y]);
  return index;
}

function place() {
  const knots = $('#knots');
  if (!knots) return;
  while (knots.children.length > points.length) knots.lastChild.remove();
  while (knots.children.length < points.length) {
    const knot = document.createElement('button');
    knot.type = 'button';
    knot.className = 'knot';
    knots.append(knot);
  }
  points.forEach((point, i) => {
    const { left, top } = shownAt(point);
    const knot = knots.children[i];
    knot.style.left = `${left}%`;
    knot.style.top = `${top}%`;
    knot.id = `knot-${i}`;
    knot.setAttribute('aria-label', `Point ${i + 1} of ${points.length}: ${point[0]} becomes ${point[1]}. Arrow keys move it, Delete takes it away.`);
  });
}

const live = () => {
  write();
  place();
  postLive();
};
function settle() {
  write();
  post(form());
}

document.addEventListener('pointerdown', (event) => {
  const box = event.target.closest?.('#curvebox');
  if (!box || event.button) return;
  event.preventDefault();
  const knot = event.target.closest('.knot');
  const index = knot ? [...knot.parentElement.children].indexOf(knot) : insert(pointAt(event));
  if (index < 0) return;
  place();
  dragged = { index, kept: points.map((pair) => [...pair]), gone: false, fresh: !knot };
  $('#knots').children[index].focus({ preventScroll: true });
  box.setPointerCapture(event.pointerId);
  if (!knot) live();
});
document.addEventListener('pointermove', (event) => {
  if (!dragged || !$('#curvebox')) return;
  const box = $('#curvebox').getBoundingClientRect();
  const inner = dragged.index > 0 && dragged.index < dragged.kept.length - 1;
  const off = event.clientY < box.top - OFF_PX || event.clientY > box.bottom + OFF_PX;
  points = dragged.kept.map((pair) => [...pair]);
  dragged.gone = inner && off;
  if (dragged.gone) points.splice(dragged.index, 1);
  else move(dragged.index, pointAt(event));
  live();
});
function end() {
  if (!dragged) return;
  dragged = null;
  settle();
}
document.addEventListener('pointerup', end);
document.addEventListener('pointercancel', end);

const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
let resting = 0;
document.addEventListener('keydown', (event) => {
  const knot = event.target.closest?.('.knot');
  if (!knot) return;
  const index = [...knot.parentElement.children].indexOf(knot);
  const step = ARROWS[event.key];
  if (step) {
    const by = event.shiftKey ? 10 : 1;
    move(index, [points[index][0] + step[0] * by, points[index][1] + step[1] * by]);
    live();
    clearTimeout(resting);
    resting = afterRest(settle, 600);
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && index > 0 && index < points.length - 1) {
    points.splice(index, 1);
    place();
    knot.parentElement.children[index - 1].focus();
    settle();
  } else return;
  event.preventDefault();
  event.stopPropagation();
});

// By keyboard a new point comes amid the widest gap.
document.addEventListener('click', (event) => {
  if (!event.target.closest?.('[data-knot=add]')) return;
  if (!points.length) points = STRAIGHT.map((pair) => [...pair]);
  let widest = 0;
  for (let i = 1; i < points.length - 1; i += 1) {
    if (points[i + 1][0] - points[i][0] > points[widest + 1][0] - points[widest][0]) widest = i;
  }
  const [a, b] = [points[widest], points[widest + 1]];
  const index = insert([Math.round((a[0] + b[0]) / 2), Math.round((a[1] + b[1]) / 2)]);
  place();
  $('#knots').children[Math.max(index, 0)]?.focus();
  settle();
});

// The knots are made anew with every answer; whoever holds one by key keeps it.
let held = '';
document.addEventListener('htmx:beforeSwap', () => {
  held = document.activeElement?.matches?.('.knot') ? document.activeElement.id : '';
});
document.addEventListener('ember:adopt', (event) => {
  if (event.detail === 'curve' && dragged) event.preventDefault();
});
function renew() {
  if (!$('#curvebox') || dragged) return;
  read();
  place();
  if (held) document.getElementById(held)?.focus({ preventScroll: true });
  held = '';
}
document.addEventListener('htmx:afterSwap', renew);
document.addEventListener('htmx:oobAfterSwap', () => !dragged && place());
renew();
