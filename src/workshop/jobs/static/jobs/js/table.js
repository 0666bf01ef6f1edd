// The table: the piece to scale, two views with a divider, loupe, zoom and pan.

import { typing } from '../../shell/js/page.js';
import { oncePerFrame } from './frames.js';
import { Layer } from './layers.js';
import { Loupe } from './loupe.js';
import { toDots } from './maps.js';
import { drawRulers, RULER } from './rulers.js';
import { View } from './view.js';

const VIEWS = ['source', 'toned', 'dots', 'proof'];
const CSS_PX_PER_MM = 96 / 25.4;
const GOES_ON_MS = 200; // a step that soon after another is of the same movement
const RESTS_MS = 60;

const HATCH_PX = 8;
let hatchTile = null;

// Slanted lines that lie on the picture, as a tile made once: drawn one by one they cost up
// to 15 ms a frame.
function hatching(context, art) {
  const ratio = window.devicePixelRatio || 1;
  const side = Math.round(HATCH_PX * ratio);
  if (hatchTile?.width !== side) {
    hatchTile = new OffscreenCanvas(side, side);
    const tile = hatchTile.getContext('2d');
    tile.strokeStyle = 'rgba(227,166,59,.55)';
    tile.lineWidth = 1.5 * ratio;
    for (const at of [0, side, 2 * side]) {
      tile.moveTo(at - 2 * side, 2 * side);
      tile.lineTo(at + side, -side);
    }
    tile.stroke();
  }
  const pattern = context.createPattern(hatchTile, 'repeat');
  pattern.setTransform(new DOMMatrix([1 / ratio, 0, 0, 1 / ratio, art.left, art.top]));
  return pattern;
}

export class Table {
  constructor(stage) {
    this.stage = stage;
    this.canvas = stage.querySelector('.stage__canvas');
    this.divider = stage.querySelector('#divider');
    this.pointers = new Map(); // that hold something of the table: where they are
    this.base = stage.dataset.base;
    this.view = new View();
    this.paint = oncePerFrame(() => this.draw());
    this.left = new Layer(() => this.paint());
    this.right = new Layer(() => {
      this.paint();
      this.showLoupe();
    }, { main: 1 });
    this.veil = new Layer(() => this.paint());
    this.face = new Layer(() => this.paint());
    this.loupe = new Loupe(stage);
    this.sides = { left: 'source', right: 'proof' };
    this.split = 0.46;
    this.divided = true;
    this.drawn = '';
    this.once = new Map(); // what is drawn anew only when it moves
    this.movedAt = 0;
    this.asks = 0;
    this.without = '';
    this.both = false; // light and dark exchanged stand on the left of the divider
    this.lamp = 315; // where the light comes from, degrees clockwise from the top
    this.peeked = null; // a take looked at instead of the job
    this.told = 0; // how often the page was told what is current
  }

  start() {
    this.recall();
    new ResizeObserver(() => this.resized()).observe(this.stage);
    // Swapped in beside every answer; its attributes say what is current.
    document.addEventListener('htmx:oobAfterSwap', (event) => {
      if (event.target.id === 'pictures' || event.detail.target?.id === 'pictures') this.update();
    });
    document.addEventListener('htmx:beforeOnLoad', (event) => {
      const keys = event.detail.xhr.getResponseHeader('X-Keys');
      if (keys) this.takeKeys(JSON.parse(keys));
    });
    this.listenToPointer();
    this.listenToTools();
    this.listenToKeys();
    this.listenToHolding();
    this.resized();
    document.addEventListener('ember:fold', () => this.showVeil());
    document.fonts?.ready.then(() => this.paint());
  }

  // What is current: size, blank, keys.
  get piece() {
    const data = this.peeked ?? document.querySelector('#pictures').dataset;
    const [along, pitch] = [Number(data.along), Number(data.pitch)];
    const [cols, rows] = [Number(data.cols), Number(data.rows)];
    return {
      cols, rows, along, pitch,
      artWidth: cols * along,
      artHeight: rows * pitch,
      width: Number(data.blankWidth),
      height: Number(data.blankHeight),
      edge: data.blankEdge,
      offsetX: Number(data.offsetX),
      offsetY: Number(data.offsetY),
      toFile: data.toFile.split(' ').map(Number),
      fileWidth: Number(data.fileWidth),
      fileHeight: Number(data.fileHeight),
      ground: data.ground,
      textured: Boolean(data.textured),
      deep: Boolean(data.deep),
      large: Boolean(data.large),
      mostPoints: Number(data.mostPoints),
      take: data.take ?? '',
      spot: Number(data.spot),
      keys: { source: data.keySource, toned: data.keyToned, dots: data.keyDots, proof: data.keyProof, veil: data.keyVeil, face: data.keyFace },
    };
  }

  // What the views are called for the way the picture is marked.
  get viewNames() {
    const told = document.querySelector('#pictures').dataset.viewNames.split('|');
    return Object.fromEntries(VIEWS.map((view, at) => [view, told[at]]));
  }

  // What is on the right of the divider, to be asked for past its key; null where it
  // depends on more than the job, or comes as a quick look first.
  get lookedAt() {
    const { piece } = this;
    const window = this.visible ? this.inSight(piece) : null;
    if (!window || this.without || this.both || this.peeked || piece.large) return null;
    const view = this.sides.right;
    return view === 'proof' && piece.deep && this.lamp !== 315 ? { view, window: { ...window, lamp: this.lamp } } : { view, window };
  }

  // New keys that came ahead of the page's own.
  takeKeys(keys) {
    this.told += 1;
    const { dataset } = document.querySelector('#pictures');
    for (const [view, key] of Object.entries(keys)) {
      dataset[`key${view[0].toUpperCase()}${view.slice(1)}`] = key;
    }
    this.request();
  }

  get box() {
    const width = this.stage.clientWidth;
    const height = this.stage.clientHeight;
    const lens = this.loupe.on && width > 640 ? 258 : 0;
    return { left: RULER.x, top: RULER.y, width: width - RULER.x - lens, height: height - RULER.y };
  }

  get visible() {
    return this.stage.clientWidth > 0 && this.stage.clientHeight > 0;
  }

  resized() {
    if (!this.visible) return;
    const ratio = window.devicePixelRatio || 1;
    this.canvas.width = Math.round(this.stage.clientWidth * ratio);
    this.canvas.height = Math.round(this.stage.clientHeight * ratio);
    if (this.view.fitted) this.view.fit(this.piece, this.box);
    this.update();
  }

  // Something may have changed: fetch what is missing, draw what is there.
  update() {
    this.told += 1;
    if (!this.visible) return;
    const { width, height, artWidth, artHeight, offsetX, offsetY } = this.piece;
    const shape = JSON.stringify([width, height, artWidth, artHeight, offsetX, offsetY]);
    if (shape !== this.shape) {
      if (this.view.fitted) this.view.fit(this.piece, this.box);
      this.shape = shape;
    }
    this.loupe.place(this.piece);
    this.request();
    this.paint();
  }

  request() {
    const { piece } = this;
    const window = this.inSight(piece);
    if (!window) return;
    if (this.without) window.without = this.without;
    if (piece.take) window.take = piece.take;
    this.mark();
    const lit = (view) => (view === 'proof' && piece.deep && this.lamp !== 315 ? { ...window, lamp: this.lamp } : window);
    const { left, right } = this.sides;
    const turn = ++this.asks;
    // What the eye is on first: the others would only take its processors.
    this.right.fetch(this.base, right, piece.keys[right], lit(right), piece.large).finally(() => {
      if (turn !== this.asks) return;
      if (this.both) this.left.fetch(this.base, 'proof', piece.keys.proof, { ...lit('proof'), turned: 1 }, false);
      else if (this.divided) this.left.fetch(this.base, left, piece.keys[left], lit(left), piece.large);
      if (piece.textured) this.requestFace(piece);
      if (this.veiled) this.veil.fetch(this.base, 'veil', piece.keys.veil, window);
      if (this.right.shown?.key === piece.keys[right]) this.showLoupe();
    });
  }

  // The material itself, as far as the blank is in sight; it may reach beyond the dots.
  requestFace(piece) {
    const art = this.view.art(piece);
    const { x, y, scale } = this.view;
    const [w, h] = [this.stage.clientWidth, this.stage.clientHeight];
    const left = Math.floor((Math.max(x, 0) - art.left) / art.dotX);
    const top = Math.floor((Math.max(y, 0) - art.top) / art.dotY);
    const cols = Math.ceil((Math.min(x + piece.width * scale, w) - art.left) / art.dotX) - left;
    const rows = Math.ceil((Math.min(y + piece.height * scale, h) - art.top) / art.dotY) - top;
    if (cols < 1 || rows < 1) return;
    const pixels = (dots, each) => Math.max(1, Math.min(Math.round(dots * each), 4 * dots, 2000));
    const window = { left, top, cols, rows, w: pixels(cols, art.dotX), h: pixels(rows, art.dotY) };
    if (piece.take) window.take = piece.take;
    this.face.fetch(this.base, 'face', piece.keys.face, window);
  }

  // What is not burned is veiled while the background is being worked on.
  get veiled() {
    return Boolean(document.querySelector('[data-fold=ground]')?.open);
  }

  showVeil() {
    this.request();
    this.paint();
  }

  showLoupe() {
    const { piece } = this;
    if (this.loupe.on) this.loupe.show(this.base, piece.keys.dots, piece);
  }

  // The dots in sight and how many pixels to show them with.
  inSight(piece) {
    const art = this.view.art(piece);
    const ratio = window.devicePixelRatio || 1;
    const clip = (value, most) => Math.min(Math.max(value, 0), most);
    const left = Math.floor(clip((RULER.x - art.left) / art.dotX, piece.cols));
    const top = Math.floor(clip((RULER.y - art.top) / art.dotY, piece.rows));
    const right = Math.ceil(clip((this.stage.clientWidth - art.left) / art.dotX, piece.cols));
    const bottom = Math.ceil(clip((this.stage.clientHeight - art.top) / art.dotY, piece.rows));
    if (right <= left || bottom <= top) return null;
    const [cols, rows] = [right - left, bottom - top];
    const pixels = (dots, each) => Math.max(1, Math.min(Math.round(dots * each * ratio), 4 * dots));
    return { left, top, cols, rows, w: pixels(cols, art.dotX), h: pixels(rows, art.dotY) };
  }

  // Drawing

  draw() {
    if (!this.visible) return;
    const ratio = window.devicePixelRatio || 1;
    const context = this.canvas.getContext('2d');
    const [width, height] = [this.stage.clientWidth, this.stage.clientHeight];
    const { piece } = this;
    const art = this.view.art(piece);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    const under = this.drawnUnder(piece, art, [width, height, ratio]);
    context.drawImage(under, 0, 0, width, height);
    context.save();
    context.clip(this.blankPath(piece), 'evenodd');
    this.right.draw(context, art);
    if (this.divided) {
      context.beginPath();
      context.rect(0, 0, this.splitX(), height);
      context.clip();
      context.drawImage(under, 0, 0, width, height);
      this.left.draw(context, art);
    }
    if (this.veiled) this.veil.draw(context, art);
    context.restore();
    this.drawArtBorder(context, piece, art);
    const aim = this.loupe.arrange(art, true);
    drawRulers(context, width, height, this.view, piece, aim);
    this.arrangeDivider();
    this.sayWords();
    document.dispatchEvent(new CustomEvent('ember:moved'));
    this.note();
  }

  // The blank in its shadow, and what of the picture falls off it: each drawn anew only
  // when something of it moves, since a shadow costs more than all the rest.
  drawnUnder(piece, art, [width, height, ratio]) {
    const { x, y, scale } = this.view;
    const { edge, ground, textured } = piece;
    const size = [width, height, ratio];
    const place = [x, y, scale, edge, ground];
    const shadow = this.drawnOnce('shadow', place, size, (context) => this.drawShadow(context, piece));
    return this.drawnOnce('under', [place, art, textured, this.face.shown?.turn], size, (context) => {
      context.drawImage(shadow, 0, 0, width, height);
      this.drawBlankFace(context, piece);
      this.drawBeyond(context, piece, art);
    });
  }

  drawnOnce(name, of, [width, height, ratio], draw) {
    const key = JSON.stringify([of, width, height, ratio]);
    const known = this.once.get(name);
    if (known?.key === key) return known.canvas;
    const canvas = known?.canvas ?? document.createElement('canvas');
    this.once.set(name, { canvas, key });
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    const context = canvas.getContext('2d');
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    draw(context);
    return canvas;
  }

  // The part of the picture that falls off the blank, hatched.
  drawBeyond(context, piece, art) {
    context.save();
    context.beginPath();
    context.rect(art.left, art.top, art.width, art.height);
    context.clip();
    const beyond = this.blankPath(piece);
    beyond.rect(art.left, art.top, art.width, art.height);
    context.fillStyle = hatching(context, art);
    context.fill(beyond, 'evenodd');
    context.restore();
  }

  // A mirrored or printed piece is not shown as it is burned: say so.
  sayWords() {
    const place = this.stage.querySelector('#words');
    const quick = this.right.shown?.quick || (this.divided && this.left.shown?.quick);
    const words = quick ? 'A quick look; the exact picture is on its way' : this.peeked ? this.peekedWords : this.without ? `Without ${this.without}` : document.querySelector('#pictures').dataset.words;
    place.hidden = !words;
    place.textContent = words;
  }

  // The blank's edge on the screen; it comes in mm from the blank's middle.
  blankPath(piece) {
    const { x, y, scale } = this.view;
    const path = new Path2D();
    const middle = [x + (piece.width * scale) / 2, y + (piece.height * scale) / 2];
    if (this.edge !== piece.edge) [this.edge, this.edgePath] = [piece.edge, new Path2D(piece.edge)];
    path.addPath(this.edgePath, new DOMMatrix([scale, 0, 0, scale, ...middle]));
    return path;
  }

  drawShadow(context, piece) {
    context.save();
    context.shadowColor = 'rgba(0,0,0,.5)';
    context.shadowBlur = 18;
    context.shadowOffsetY = 7;
    context.fillStyle = piece.ground;
    context.fill(this.blankPath(piece), 'evenodd');
    context.restore();
  }

  drawBlankFace(context, piece) {
    const face = this.blankPath(piece);
    context.fillStyle = piece.ground;
    context.fill(face, 'evenodd');
    if (!piece.textured) return;
    context.save();
    context.clip(face, 'evenodd');
    this.face.draw(context, this.view.art(piece));
    context.restore();
  }

  // What hangs over the blank is drawn as an outline only.
  drawArtBorder(context, piece, art) {
    context.strokeStyle = 'rgba(241,234,221,.35)';
    context.setLineDash([4, 4]);
    context.lineWidth = 1;
    context.strokeRect(art.left, art.top, art.width, art.height);
    context.setLineDash([]);
  }

  splitX() {
    const { x, scale } = this.view;
    return x + this.split * this.piece.width * scale;
  }

  arrangeDivider() {
    this.divider.hidden = !this.divided;
    if (!this.divided) return;
    const x = Math.min(Math.max(this.splitX(), RULER.x + 2), this.stage.clientWidth - 2);
    this.divider.style.transform = `translateX(${x}px)`;
    const [l, r] = this.divider.querySelectorAll('.divider__tag');
    const names = this.viewNames;
    l.textContent = this.both ? 'The other way' : names[this.sides.left];
    r.textContent = names[this.sides.right];
    this.divider.setAttribute('aria-valuenow', String(Math.round(this.split * 100)));
    this.divider.setAttribute('aria-valuetext', `${names[this.sides.left]} left of ${Math.round(this.split * 100)} %, ${names[this.sides.right]} right`);
  }

  // For whoever waits: which keys are on the screen.
  note() {
    const keys = this.piece.keys;
    const right = this.right.shown;
    if (right?.key && this.stage.dataset.seen !== right.key) {
      this.stage.dataset.seen = right.key; // it may not be written yet
      this.stage.dispatchEvent(new CustomEvent('seen', { detail: right.key }));
    }
    const current = right && right.key === keys[this.sides.right] && right.view === this.sides.right;
    if (current && this.drawn !== right.key) {
      this.drawn = right.key;
      this.stage.dataset.drawn = right.key;
      this.stage.dispatchEvent(new CustomEvent('drawn', { detail: right.key }));
    }
  }

  // Pointer

  listenToPointer() {
    this.stage.addEventListener('wheel', (event) => {
      if (event.target.closest('.cropping, .squaring')) return;
      event.preventDefault();
      const step = event.deltaMode === 1 ? event.deltaY * 16 : event.deltaY;
      this.zoom(Math.exp(-step * 0.0016), this.at(event));
    }, { passive: false });
    this.dragging(this.canvas, (now, before) => {
      this.view.pan(now.x - before.x, now.y - before.y);
      this.moved();
    });
    this.dragging(this.divider, (now) => {
      const { x, scale } = this.view;
      this.setSplit((now.x - x) / (this.piece.width * scale));
    });
    this.dragging(this.loupe.ring, (now) => this.moveLoupe(...toDots(this.view.art(this.piece), now)));
  }

  pinch(moved, before, now) {
    const [other] = [...this.pointers].filter(([id]) => id !== moved).map(([, point]) => point);
    const old = Math.hypot(before.x - other.x, before.y - other.y);
    const fresh = Math.hypot(now.x - other.x, now.y - other.y);
    if (old > 0) this.zoom(fresh / old, { x: (now.x + other.x) / 2, y: (now.y + other.y) / 2 });
  }

  // One finger does what the part it lies on is for; two pinch, wherever they lie.
  dragging(element, act) {
    element.addEventListener('pointerdown', (event) => {
      if (element !== this.canvas) {
        event.preventDefault();
        element.focus();
      }
      element.setPointerCapture(event.pointerId);
      this.pointers.set(event.pointerId, this.at(event));
    });
    element.addEventListener('pointermove', (event) => {
      const before = this.pointers.get(event.pointerId);
      if (!before) return;
      const now = this.at(event);
      if (this.pointers.size === 1) act(now, before);
      else if (this.pointers.size === 2) this.pinch(event.pointerId, before, now);
      this.pointers.set(event.pointerId, now);
    });
    const end = (event) => this.pointers.delete(event.pointerId);
    element.addEventListener('pointerup', end);
    element.addEventListener('pointercancel', end);
  }

  at(event) {
    const box = this.stage.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  }

  zoom(factor, at) {
    const { piece, box } = this;
    const least = Math.min(box.width / piece.width, box.height / piece.height) / 4;
    this.view.zoom(factor, at ?? { x: box.left + box.width / 2, y: box.top + box.height / 2 }, piece, least);
    this.moved();
  }

  // Draw at once with what is there; fetch after a single step, or when the hand rests.
  moved() {
    this.paint();
    const since = performance.now() - this.movedAt;
    this.movedAt += since;
    clearTimeout(this.resting);
    if (since > GOES_ON_MS) this.request();
    else this.resting = setTimeout(() => this.request(), RESTS_MS);
    this.remember();
  }

  setSplit(share) {
    this.split = Math.min(Math.max(share, 0), 1);
    this.paint();
    this.remember();
  }

  setLamp(degrees) {
    this.lamp = degrees;
    this.request();
    this.remember();
  }

  moveLoupe(x, y) {
    this.loupe.at = { x, y };
    this.loupe.place(this.piece);
    this.loupe.show(this.base, this.piece.keys.dots, this.piece);
    this.paint();
  }

  // Tools and views

  listenToTools() {
    document.addEventListener('click', (event) => {
      const view = event.target.closest('[data-view]');
      if (view) this.choose(event.shiftKey ? 'left' : 'right', view.dataset.view);
      const tool = event.target.closest('[data-tool]');
      if (tool) this.use(tool.dataset.tool);
    });
  }

  choose(side, view) {
    const other = side === 'left' ? 'right' : 'left';
    if (this.sides[other] === view) this.sides[other] = this.sides[side];
    this.sides[side] = view;
    this.mark();
    this.request();
    this.paint();
    this.remember();
  }

  use(tool) {
    if (tool === 'divider') this.divided = !this.divided;
    else if (tool === 'both') {
      this.both = !this.both;
      this.left.forget();
      if (this.both) [this.divided, this.sides.right] = [true, 'proof'];
    }
    else if (tool === 'loupe') {
      this.loupe.on = !this.loupe.on;
      if (this.view.fitted) this.view.fit(this.piece, this.box);
    } else if (tool === 'fit') this.view.fit(this.piece, this.box);
    else if (tool === 'true') this.zoom(CSS_PX_PER_MM / this.view.scale);
    this.mark();
    this.request();
    this.paint();
    this.remember();
  }

  mark() {
    const names = this.viewNames;
    document.querySelectorAll('[data-view]').forEach((button) => {
      const word = button.lastChild;
      if (word.textContent !== names[button.dataset.view]) word.textContent = names[button.dataset.view];
      const left = this.divided && button.dataset.view === this.sides.left;
      const right = button.dataset.view === this.sides.right;
      button.classList.toggle('is-left', left);
      button.classList.toggle('is-right', right && this.divided);
      button.classList.toggle('is-on', right && !this.divided);
      button.setAttribute('aria-pressed', String(left || right));
    });
    const on = { divider: this.divided, loupe: this.loupe.on, both: this.both };
    document.querySelectorAll('[data-tool]').forEach((button) => {
      if (!(button.dataset.tool in on)) return;
      button.classList.toggle('is-on', on[button.dataset.tool]);
      button.setAttribute('aria-pressed', String(on[button.dataset.tool]));
    });
  }

  // While a button or its key is held, the piece is shown without a station.

  listenToHolding() {
    const hold = (station) => {
      if (this.without === station) return;
      this.without = station;
      this.request();
      this.paint();
    };
    const button = (event) => event.target.closest?.('[data-hold]');
    document.addEventListener('pointerdown', (event) => button(event) && hold(button(event).dataset.hold));
    document.addEventListener('keydown', (event) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const pressed = event.key === ' ' || event.key === 'Enter';
      if (pressed && button(event)) hold(button(event).dataset.hold);
      else if (event.key.toLowerCase() === 'o' && !typing(event.target)) hold('tone');
    });
    for (const end of ['pointerup', 'pointercancel', 'keyup', 'blur']) {
      window.addEventListener(end, () => hold(''));
    }
  }

  // A take is looked at without opening it.
  peek(data, words) {
    if (!data && !this.peeked) return;
    this.peeked = data;
    this.peekedWords = words;
    this.update();
  }

  // Keys

  listenToKeys() {
    document.addEventListener('keydown', (event) => {
      if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      // Takes side by side have these keys for themselves.
      if (document.querySelector('.compare')) return;
      const tool = { d: 'divider', l: 'loupe', f: 'fit', 0: 'true' }[event.key.toLowerCase()];
      if (tool) this.use(tool);
      else if (event.key === '+' || event.key === '=') this.zoom(1.25);
      else if (event.key === '-') this.zoom(0.8);
    });
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const onArrow = (element, act) => element.addEventListener('keydown', (event) => {
      const step = arrows[event.key];
      if (!step) return;
      event.preventDefault();
      act(...step, event.shiftKey);
    });
    onArrow(this.divider, (dx, _, shift) => this.setSplit(this.split + dx * (shift ? 0.1 : 0.01)));
    onArrow(this.loupe.ring, (dx, dy, shift) => {
      const mm = shift ? 5 : 0.5;
      const { along, pitch } = this.piece;
      this.moveLoupe(this.loupe.at.x + dx * mm / along, this.loupe.at.y + dy * mm / pitch);
    });
    onArrow(this.canvas, (dx, dy, shift) => {
      const step = shift ? 120 : 30;
      this.view.pan(-dx * step, -dy * step);
      this.moved();
    });
  }

  // A reload brings the table back as it was.

  remember() {
    const { sides, split, divided } = this;
    const state = { sides, split, divided, loupe: this.loupe.on, lamp: this.lamp };
    try {
      localStorage.setItem('ember-table', JSON.stringify(state));
    } catch { /* private windows have no storage */ }
  }

  recall() {
    try {
      const state = JSON.parse(localStorage.getItem('ember-table') ?? 'null');
      if (state) {
        Object.assign(this, { sides: state.sides, split: state.split, divided: state.divided });
        this.loupe.on = state.loupe;
        this.lamp = state.lamp ?? 315;
      }
    } catch { /* a damaged memory is no memory */ }
    if (this.stage.clientWidth && this.stage.clientWidth < 640) this.loupe.on = false;
    this.mark();
  }
}
