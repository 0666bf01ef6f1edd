// The piece in the round: a mesh of its depths, turned by pointer and keys.

const THREE = '../../shell/vendor/three-0.180.0/three.module.min.js';
// As in the proof: how high the lamp stands, the light from all around, and how far the
// deepest ground looks like what is burned.
const LIGHT_DEG = 28;
const AROUND = 0.35;
const CAVED = 0.3;
const MOVING_RATIO = 0.5;
// While it moves every so many samples are drawn: as many as this machine can, between
// these milliseconds a picture.
const STEPS = [1, 2, 3, 4];
const QUICK_MS = 18;
const SLOW_MS = 31;
const BEHIND = '#3b352f';
const REST_MS = 180;
const KEPT_FRAMES = 60;
const STEP = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const radians = (degrees) => (degrees * Math.PI) / 180;

export class Turned {
  constructor(place, lamp) {
    this.place = place;
    this.canvas = place.querySelector('canvas');
    this.says = place.querySelector('#turned-says');
    this.lamp = lamp;
    this.turn = 25;
    this.tilt = 50; // from lying flat
    this.near = 1;
    this.frames = []; // when the last pictures were drawn, ms
    this.step = 2;
    this.took = 25;
    this.listen();
  }

  async show(base, key) {
    if (key === this.key) return this.paint();
    this.key = key;
    try {
      this.three ??= await import(THREE).catch(() => {
        throw new Error('The program is another one by now; load the page anew.');
      });
      this.begin();
      const answer = await fetch(`${base}surface/${key}.bin`);
      if (this.key !== key || answer.status === 410) return undefined;
      if (!answer.ok) throw new Error(await answer.text());
      this.told = JSON.parse(answer.headers.get('X-Surface'));
      this.depths = new Float32Array(await answer.arrayBuffer());
      this.build();
      const { deepest } = this.told;
      this.says.textContent = `${deepest.toFixed(2)} mm at its deepest`;
      this.place.dataset.drawn = key;
    } catch (fault) {
      this.says.textContent = fault.message.includes('WebGL') ? 'This browser cannot draw it in the round.' : fault.message;
    }
    return undefined;
  }

  rest() {
    this.frames = [];
  }

  begin() {
    if (this.renderer) return;
    const { Color, PerspectiveCamera, Scene, WebGLRenderer } = this.three;
    this.renderer = new WebGLRenderer({ canvas: this.canvas, antialias: false, alpha: false, stencil: false });
    this.scene = new Scene();
    this.scene.background = new Color(BEHIND);
    this.camera = new PerspectiveCamera(30, 1, 0.1, 10000);
    new ResizeObserver(() => this.paint()).observe(this.place);
  }

  // One sample a corner; faces where there is a blank.
  build() {
    const { BufferAttribute, BufferGeometry, DoubleSide, Mesh, MeshBasicMaterial } = this.three;
    const { cols, rows, width, height } = this.told;
    const taller = Number(this.place.querySelector('#taller').value);
    const { depths } = this;
    const places = new Float32Array(3 * cols * rows);
    for (let at = 0; at < cols * rows; at += 1) {
      const [col, row] = [at % cols, Math.floor(at / cols)];
      places[3 * at] = (col / (cols - 1) - 0.5) * width;
      places[3 * at + 1] = (0.5 - row / (rows - 1)) * height;
      places[3 * at + 2] = -(depths[at] || 0) * taller;
    }
    this.faces = STEPS.map((step) => new BufferAttribute(this.corners(step), 1));
    const shape = new BufferGeometry();
    shape.setAttribute('position', new BufferAttribute(places, 3));
    shape.setAttribute('color', new BufferAttribute(new Float32Array(places.length), 3));
    shape.setIndex(this.faces[0]);
    shape.computeVertexNormals();
    this.mesh?.removeFromParent();
    this.mesh?.geometry.dispose();
    this.mesh = new Mesh(shape, new MeshBasicMaterial({ vertexColors: true, side: DoubleSide }));
    this.scene.add(this.mesh);
    this.far = (1.25 * Math.hypot(width, height)) / (2 * Math.tan(radians(15)));
    this.light();
    this.paint();
  }

  // Two to a square of so many samples, where there is a blank.
  corners(step) {
    const { cols, rows } = this.told;
    const { depths } = this;
    const found = [];
    for (let row = 0; row < rows - step; row += step) {
      for (let col = 0; col < cols - step; col += step) {
        const first = row * cols + col;
        const [a, b, c, d] = [first, first + step, first + step * cols, first + step * (cols + 1)];
        if (!Number.isNaN(depths[a] + depths[b] + depths[c] + depths[d])) found.push(a, c, b, b, c, d);
      }
    }
    return new Uint32Array(found);
  }

  // A matt surface is as bright from wherever one looks (Lambert), so its light is
  // reckoned once for a place of the lamp, and turning it costs no more.
  light() {
    const { Color } = this.three;
    const { deepest, ground, mark } = this.told;
    const [pale, dark] = [new Color(ground), new Color(mark)];
    const { color, normal } = this.mesh.geometry.attributes;
    const [turn, up] = [radians(this.lamp()), radians(LIGHT_DEG)];
    const sun = [Math.sin(turn) * Math.cos(up), Math.cos(turn) * Math.cos(up), Math.sin(up)];
    const [out, across] = [color.array, normal.array];
    for (let at = 0; at < out.length; at += 3) {
      const falls = across[at] * sun[0] + across[at + 1] * sun[1] + across[at + 2] * sun[2];
      const bright = AROUND + ((1 - AROUND) * Math.max(falls, 0)) / sun[2];
      const share = deepest ? (CAVED * (this.depths[at / 3] || 0)) / deepest : 0;
      out[at] = (pale.r + (dark.r - pale.r) * share) * bright;
      out[at + 1] = (pale.g + (dark.g - pale.g) * share) * bright;
      out[at + 2] = (pale.b + (dark.b - pale.b) * share) * bright;
    }
    color.needsUpdate = true;
  }

  relight() {
    if (!this.mesh) return;
    this.light();
    this.paint();
  }

  paint() {
    if (this.pending || !this.mesh) return;
    this.pending = requestAnimationFrame(() => {
      this.pending = 0;
      this.draw();
    });
  }

  draw() {
    const [wide, high] = [this.place.clientWidth, this.place.clientHeight];
    if (!wide || !high) return;
    const { renderer, camera } = this;
    // Coarser while it moves, sharp when it rests.
    const ratio = this.moving ? MOVING_RATIO : Math.min(window.devicePixelRatio || 1, 2);
    const size = `${wide} ${high} ${ratio}`;
    if (size !== this.size) {
      this.size = size;
      renderer.setPixelRatio(ratio);
      renderer.setSize(wide, high, false);
    }
    this.mesh.geometry.setIndex(this.faces[(this.moving ? this.step : 1) - 1]);
    camera.aspect = wide / high;
    camera.updateProjectionMatrix();
    const [turn, tilt, far] = [radians(this.turn), radians(this.tilt), (this.far / this.near) * Math.max(1, high / wide)];
    camera.position.set(far * Math.sin(turn) * Math.cos(tilt), -far * Math.cos(turn) * Math.cos(tilt), far * Math.sin(tilt));
    camera.up.set(0, 0, 1);
    camera.lookAt(0, 0, 0);
    renderer.render(this.scene, camera);
    this.frames.push(performance.now());
    if (this.moving) this.keepPace();
    if (this.frames.length > KEPT_FRAMES) this.frames.shift();
  }

  // As fine as it can be drawn smoothly: coarser where pictures come late, finer where
  // they come as quickly as the screen takes them.
  keepPace() {
    const [before, now] = this.frames.slice(-2);
    if (!now || now - before > REST_MS) return;
    this.took += 0.2 * (now - before - this.took);
    const by = Number(this.took > SLOW_MS) - Number(this.took < QUICK_MS);
    const next = Math.min(Math.max(this.step + by, 1), STEPS.length);
    if (next !== this.step) this.took = (QUICK_MS + SLOW_MS) / 2;
    this.step = next;
  }

  inMotion() {
    this.moving = true;
    clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      this.moving = false;
      this.paint();
    }, REST_MS);
  }

  by(turn, tilt) {
    this.inMotion();
    this.turn = (this.turn + turn) % 360;
    this.tilt = Math.min(Math.max(this.tilt + tilt, 8), 89.5);
    this.paint();
  }

  closer(times) {
    this.inMotion();
    this.near = Math.min(Math.max(this.near * times, 0.4), 12);
    this.paint();
  }

  listen() {
    const { canvas } = this;
    const held = new Map();
    canvas.addEventListener('pointerdown', (event) => {
      canvas.setPointerCapture(event.pointerId);
      canvas.focus({ preventScroll: true });
      held.set(event.pointerId, [event.clientX, event.clientY]);
    });
    canvas.addEventListener('pointermove', (event) => {
      const before = held.get(event.pointerId);
      if (!before) return;
      const now = [event.clientX, event.clientY];
      if (held.size === 2) {
        const [other] = [...held].filter(([id]) => id !== event.pointerId).map(([, at]) => at);
        const span = (at) => Math.hypot(at[0] - other[0], at[1] - other[1]);
        this.closer(span(now) / Math.max(span(before), 1));
      } else this.by((before[0] - now[0]) * 0.4, (now[1] - before[1]) * 0.4);
      held.set(event.pointerId, now);
    });
    for (const end of ['pointerup', 'pointercancel']) canvas.addEventListener(end, (event) => held.delete(event.pointerId));
    canvas.addEventListener('wheel', (event) => {
      event.preventDefault();
      event.stopPropagation();
      this.closer(Math.exp(-event.deltaY * 0.0016));
    }, { passive: false });
    canvas.addEventListener('keydown', (event) => {
      const step = STEP[event.key];
      if (step) this.by(-step[0] * 5, -step[1] * 5);
      else if (event.key === '+' || event.key === '=') this.closer(1.15);
      else if (event.key === '-') this.closer(1 / 1.15);
      else return;
      event.preventDefault();
      event.stopPropagation();
    });
    this.place.querySelector('#taller').addEventListener('change', () => this.depths && this.build());
  }
}
