// Takes side by side: one zoom and one loupe for all panes.

import { typing } from '../../shell/js/page.js';
import { oncePerFrame } from './frames.js';
import { Layer } from './layers.js';
import { pieceOf } from './takes.js';

const LENS = 62; // radius of a pane's loupe, pixels
const PER_DOT = 7;
const BLOCK = 40; // dots each way that a loupe fetches
const $ = (selector, root = document) => root.querySelector(selector);

const shared = { scale: 0, x: 0, y: 0, lens: { x: 0, y: 0 } }; // mm from the pictures' middles
let panes = [];

class Pane {
  constructor(figure, base, paint) {
    this.canvas = $('canvas', figure);
    this.base = base;
    const data = pieceOf(figure);
    const number = (name) => Number(data[name]);
    this.take = data.take;
    this.keys = { proof: data.keyProof, dots: data.keyDots, face: data.keyFace };
    this.textured = Boolean(data.textured);
    [this.cols, this.rows, this.along, this.pitch] = ['cols', 'rows', 'along', 'pitch'].map(number);
    this.width = this.cols * this.along;
    this.height = this.rows * this.pitch;
    this.ground = data.ground;
    this.layer = new Layer(paint);
    this.dots = new Layer(paint);
    this.face = new Layer(paint);
  }

  get size() {
    return { wide: this.canvas.clientWidth, high: this.canvas.clientHeight };
  }

  art() {
    const { wide, high } = this.size;
    const { scale, x, y } = shared;
    return {
      left: wide / 2 - (this.width / 2 + x) * scale,
      top: high / 2 - (this.height / 2 + y) * scale,
      width: this.width * scale,
      height: this.height * scale,
      dotX: this.along * scale,
      dotY: this.pitch * scale,
    };
  }

  request() {
    const art = this.art();
    const { wide, high } = this.size;
    const ratio = window.devicePixelRatio || 1;
    const clip = (value, most) => Math.min(Math.max(value, 0), most);
    const left = Math.floor(clip(-art.left / art.dotX, this.cols));
    const top = Math.floor(clip(-art.top / art.dotY, this.rows));
    const cols = Math.ceil(clip((wide - art.left) / art.dotX, this.cols)) - left;
    const rows = Math.ceil(clip((high - art.top) / art.dotY, this.rows)) - top;
    if (cols < 1 || rows < 1) return;
    const pixels = (count, each) => Math.max(1, Math.min(Math.round(count * each * ratio), 4 * count));
    const of = this.take ? { take: this.take } : {};
    const wanted = { left, top, cols, rows, w: pixels(cols, art.dotX), h: pixels(rows, art.dotY), ...of };
    this.layer.fetch(this.base, 'proof', this.keys.proof, wanted);
    if (this.textured) {
      const whole = { left: Math.floor(-art.left / art.dotX), top: Math.floor(-art.top / art.dotY), cols: Math.ceil(wide / art.dotX) + 1, rows: Math.ceil(high / art.dotY) + 1 };
      this.face.fetch(this.base, 'face', this.keys.face, { ...whole, w: pixels(whole.cols, art.dotX), h: pixels(whole.rows, art.dotY), ...of });
    }
    const at = this.lensDots();
    const block = { left: Math.round(at.x) - BLOCK / 2, top: Math.round(at.y) - BLOCK / 2, cols: BLOCK, rows: BLOCK, w: BLOCK, h: BLOCK, ...of };
    this.dots.fetch(this.base, 'dots', this.keys.dots, block);
  }

  lensDots() {
    return { x: this.cols / 2 + shared.lens.x / this.along, y: this.rows / 2 + shared.lens.y / this.pitch };
  }

  draw() {
    const ratio = window.devicePixelRatio || 1;
    const { wide, high } = this.size;
    this.canvas.width = Math.round(wide * ratio);
    this.canvas.height = Math.round(high * ratio);
    const context = this.canvas.getContext('2d');
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.fillStyle = this.ground;
    context.fillRect(0, 0, wide, high);
    const art = this.art();
    if (this.textured) this.face.draw(context, art);
    this.layer.draw(context, art);
    const at = this.lensDots();
    this.ring(context, art.left + at.x * art.dotX, art.top + at.y * art.dotY, Math.max((LENS / PER_DOT) * art.dotX, 6));
    this.lens(context, wide - LENS - 12, high - LENS - 12, at);
  }

  ring(context, x, y, radius) {
    context.lineWidth = 2;
    context.strokeStyle = '#ff8450';
    context.beginPath();
    context.arc(x, y, radius, 0, 2 * Math.PI);
    context.stroke();
  }

  lens(context, x, y, at) {
    context.save();
    context.beginPath();
    context.arc(x, y, LENS, 0, 2 * Math.PI);
    context.fillStyle = '#26282a';
    context.fill();
    context.clip();
    const shown = this.dots.shown;
    if (shown) {
      context.imageSmoothingEnabled = false;
      const longer = Math.max(this.along, this.pitch);
      const [perX, perY] = [(PER_DOT * this.along) / longer, (PER_DOT * this.pitch) / longer];
      const { left, top, cols, rows } = shown.window;
      context.drawImage(shown.bitmap, x - (at.x - left) * perX, y - (at.y - top) * perY, cols * perX, rows * perY);
    }
    context.restore();
    this.ring(context, x, y, LENS);
  }
}

const paint = oncePerFrame(() => panes.forEach((pane) => pane.draw()));
let resting = 0;
function moved() {
  paint();
  clearTimeout(resting);
  resting = setTimeout(() => panes.forEach((pane) => pane.request()), 60);
}

function fit() {
  const scales = panes.map((pane) => Math.min(pane.size.wide / pane.width, pane.size.high / pane.height));
  Object.assign(shared, { scale: 0.94 * Math.min(...scales), x: 0, y: 0 });
  moved();
}

function zoom(factor, pane, at) {
  const { wide, high } = pane.size;
  const [dx, dy] = [(at?.x ?? wide / 2) - wide / 2, (at?.y ?? high / 2) - high / 2];
  const scale = Math.min(Math.max(shared.scale * factor, 0.2), 24 / Math.min(pane.along, pane.pitch));
  shared.x += dx / shared.scale - dx / scale;
  shared.y += dy / shared.scale - dy / scale;
  shared.scale = scale;
  moved();
}

const pan = (dx, dy) => {
  shared.x -= dx / shared.scale;
  shared.y -= dy / shared.scale;
  moved();
};

function listen(pane) {
  const { canvas } = pane;
  const pointers = new Map();
  let far = 0;
  const at = (event) => {
    const box = canvas.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  canvas.addEventListener('wheel', (event) => {
    event.preventDefault();
    zoom(Math.exp(-event.deltaY * (event.deltaMode === 1 ? 0.026 : 0.0016)), pane, at(event));
  }, { passive: false });
  canvas.addEventListener('pointerdown', (event) => {
    canvas.setPointerCapture(event.pointerId);
    pointers.set(event.pointerId, at(event));
    far = pointers.size > 1 ? 99 : 0;
  });
  canvas.addEventListener('pointermove', (event) => {
    const before = pointers.get(event.pointerId);
    if (!before) return;
    const now = at(event);
    far += Math.hypot(now.x - before.x, now.y - before.y);
    if (pointers.size === 2) {
      const [other] = [...pointers].filter(([id]) => id !== event.pointerId).map(([, point]) => point);
      const span = (one) => Math.hypot(one.x - other.x, one.y - other.y);
      if (span(before) > 0) zoom(span(now) / span(before), pane, { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 });
    } else pan(now.x - before.x, now.y - before.y);
    pointers.set(event.pointerId, now);
  });
  const end = (event) => {
    if (pointers.delete(event.pointerId) && far < 5 && event.type === 'pointerup') {
      const { wide, high } = pane.size;
      const now = at(event);
      shared.lens = { x: shared.x + (now.x - wide / 2) / shared.scale, y: shared.y + (now.y - high / 2) / shared.scale };
      moved();
    }
  };
  canvas.addEventListener('pointerup', end);
  canvas.addEventListener('pointercancel', end);
  canvas.addEventListener('keydown', (event) => {
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!step) return;
    event.preventDefault();
    if (event.shiftKey) {
      shared.lens.x += step[0];
      shared.lens.y += step[1];
      moved();
    } else pan(-30 * step[0], -30 * step[1]);
  });
}

function open() {
  const compare = $('.compare');
  if (!compare) {
    panes = [];
    return;
  }
  const figures = [...compare.querySelectorAll('.pane')];
  panes = figures.map((figure) => new Pane(figure, compare.dataset.base, paint));
  panes.forEach(listen);
  const { loupe } = $('#stage').table;
  if (loupe.at && loupe.grid) {
    const [first] = panes;
    shared.lens = {
      x: (loupe.at.x / loupe.grid.cols - 0.5) * first.width,
      y: (loupe.at.y / loupe.grid.rows - 0.5) * first.height,
    };
  }
  fit();
  if (!compare.contains(document.activeElement)) $('canvas', compare).focus();
}

function close() {
  const panel = $('#panel');
  panel.dataset.kind = '';
  panel.replaceChildren();
  panes = [];
  $('#stage').table.resized();
  $('#take-compare')?.focus();
}

document.addEventListener('htmx:afterSwap', (event) => {
  if (event.target.id === 'panel' || event.detail.target?.id === 'panel') open();
});
document.addEventListener('htmx:oobAfterSwap', () => !$('.compare') && (panes = []));
document.addEventListener('htmx:configRequest', (event) => {
  if (event.target.id !== 'strip-form') return;
  event.detail.parameters.x = shared.lens.x.toFixed(3);
  event.detail.parameters.y = (-shared.lens.y).toFixed(3);
});
window.addEventListener('resize', () => panes.length && moved());
document.addEventListener('click', (event) => {
  const verb = event.target.closest?.('[data-compare]')?.dataset.compare;
  if (verb === 'fit') fit();
  else if (verb === 'close') close();
});
document.addEventListener('keydown', (event) => {
  if (!panes.length || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === 'Escape') close();
  else if (typing(event.target)) return;
  else if (event.key === '+' || event.key === '=') zoom(1.25, panes[0]);
  else if (event.key === '-') zoom(0.8, panes[0]);
  else if (event.key.toLowerCase() === 'f') fit();
});
