// A machine's page: what it tells several times a second, and what its buttons ask for.

import { say, typing } from '../shell/js/page.js';
import { Burned } from './burned.js';

const root = document.querySelector('.atbench');
const bed = JSON.parse(root.dataset.bed);
const inches = root.dataset.unit === 'in';
const told = (name) => root.querySelector(`[data-told="${name}"]`);
const headers = () => JSON.parse(document.body.getAttribute('hx-headers'));
const KEPT_MS = 200;
const HELD_MS = 350;
const FAINT_S = 30;
const ASK_MS = 500;

const clock = (seconds) => {
  const whole = Math.round(seconds);
  const two = (value) => String(value).padStart(2, '0');
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60];
  return h ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`;
};
const length = (mm) => (inches ? (mm / 25.4).toFixed(3) : mm.toFixed(1));
const speed = (mm) => (inches ? `${(mm / 25.4).toFixed(2)} in/s` : `${mm.toFixed(0)} mm/s`);

const STATES = {
  idle: 'at rest', run: 'running', hold: 'held', jog: 'creeping', alarm: 'alarm', door: 'door open',
  check: 'checking only', home: 'finding home', sleep: 'asleep',
};
const KINDS = { burn: 'Burning', dry: 'Dry run', walk: 'Walking the border', probe: 'Probing the bed' };
const LOOKS_MS = 1000;
const LOOKS = 30;
const ENDS = { done: 'finished', stopped: 'stopped', failed: 'failed' };

// What is asked for

async function ask(deed, words = {}, button = null) {
  const body = new URLSearchParams({ job: root.dataset.job, ...words });
  try {
    const answer = await fetch(`${root.dataset.base}do/${deed}/`, { method: 'POST', headers: headers(), body, keepalive: true });
    const { fault, said } = await answer.json();
    tell(fault ?? '', button);
    if (said) say(said);
    return !fault;
  } catch {
    tell('The program cannot be reached. Is it still running?');
    return false;
  }
}

// A sentence stands below what was pressed, where the eyes are.
function tell(fault, button = null) {
  const line = told('said');
  button?.closest('.runcard__acts, .trims, .nudges, .faint, .creeping__pad, .queue')?.after(line);
  line.textContent = fault;
  line.hidden = !fault;
}

function words(button) {
  const own = {};
  for (const name of ['x', 'y', 'z', 'what', 'by', 'run', 'percent']) {
    if (button.dataset[name] !== undefined) own[name] = button.dataset[name];
  }
  for (const field of button.closest('section, .runcard__acts')?.querySelectorAll('[data-word]') ?? []) {
    own[field.name] = field.value;
  }
  own.percent ??= document.querySelector('#faint-power').value;
  return own;
}

let walked = { percent: '0', along: 'border' };

// The piece on the bed follows a nudge.
function moved(x, y) {
  const piece = root.querySelector('#piece');
  const [left, top] = (piece.dataset.at ?? '0 0').split(' ').map(Number);
  piece.dataset.at = `${left + x} ${top - y}`;
  piece.setAttribute('transform', `translate(${left + x} ${top - y})`);
}

// A button that brings the beam on wants a second press.
function pressedTwice(button) {
  const asks = button.dataset.twicePress;
  if (!asks || button.dataset.pressed) return true;
  const label = button.querySelector('span') ?? button;
  const before = label.textContent;
  button.dataset.pressed = '1';
  label.textContent = asks;
  setTimeout(() => {
    delete button.dataset.pressed;
    label.textContent = before;
  }, 4000);
  return false;
}

root.addEventListener('click', async (event) => {
  const button = event.target.closest('[data-do]');
  if (!button || !pressedTwice(button)) return;
  const own = words(button);
  if (button.dataset.do === 'walk') walked = { percent: own.percent, along: own.along ?? 'border' };
  if (button.dataset.do === 'nudge') Object.assign(own, walked);
  const done = await ask(button.dataset.do, own, button);
  if (done && button.dataset.then === 'reload') location.reload();
  // What belongs to the piece is ticked anew for the next one.
  if (done && button.dataset.do === 'burn') document.body.dispatchEvent(new Event('handsUsed'));
  if (done && button.dataset.do === 'nudge') moved(Number(own.x), Number(own.y));
});
root.querySelector('[data-choose]')?.addEventListener('change', (event) => event.target.form.submit());
root.querySelector('[data-faint]').addEventListener('click', () => {
  const percent = document.querySelector('#faint-power').value;
  ask('faint', { percent: now.beam_s > 0 ? '0' : percent }, root.querySelector('[data-faint]'));
});

// Creeping: a press is a step, a held button goes on until it is let go

const step = () => Number(root.querySelector('[name=step]:checked').value);
let held = null;

function press(button) {
  const [x, y] = button.dataset.way.split(' ').map(Number);
  button.classList.add('is-pressed');
  const own = { button, x, y, creeping: false };
  own.waits = setTimeout(() => {
    own.creeping = true;
    ask('creep', { x, y });
    own.keeps = setInterval(() => ask('keep'), KEPT_MS);
  }, HELD_MS);
  held = own;
}

function release() {
  if (!held) return;
  const { button, x, y, creeping, waits, keeps } = held;
  held = null;
  clearTimeout(waits);
  clearInterval(keeps);
  button.classList.remove('is-pressed');
  if (creeping) ask('end-jog');
  else ask('jog', { x: x * step(), y: y * step() });
}

const rose = root.querySelector('[data-rose]');
rose.addEventListener('pointerdown', (event) => {
  const button = event.target.closest('[data-way]');
  if (!button || event.button !== 0) return;
  button.setPointerCapture(event.pointerId);
  press(button);
});
for (const end of ['pointerup', 'pointercancel', 'lostpointercapture']) rose.addEventListener(end, release);
document.addEventListener('visibilitychange', () => document.hidden && release());
window.addEventListener('pagehide', release);
window.addEventListener('blur', release);

const WAYS = { ArrowUp: 0, ArrowLeft: 1, ArrowRight: 2, ArrowDown: 3 };
rose.addEventListener('keydown', (event) => {
  const button = event.target.closest('[data-way]');
  const turned = event.key in WAYS ? rose.querySelectorAll('[data-way]')[WAYS[event.key]] : null;
  const chosen = turned ?? (['Enter', ' '].includes(event.key) ? button : null);
  if (!chosen) return;
  event.preventDefault();
  if (!event.repeat && !held) press(chosen);
});
rose.addEventListener('keyup', release);

// Hold and Stop

const hold = root.querySelector('[data-hold]');
const stopping = root.querySelector('[data-stop]');
hold.addEventListener('click', () => ask(now.program?.state === 'held' || now.program?.state === 'waiting' ? 'go-on' : 'hold'));
document.addEventListener('keydown', (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.key === 'Escape') {
    event.preventDefault();
    stopping.dispatchEvent(new PointerEvent('pointerdown', { bubbles: true, button: 0 }));
  } else if (event.key === 'p' && !typing(event.target)) hold.click();
});

// What is told

let now = {};
const burned = new Burned(root.querySelector('#burned'), root.dataset.runs, bed);

function show(state) {
  const before = now;
  now = state;
  root.classList.add('is-told');
  const { program } = state;
  const runs = Boolean(state.busy && program);
  told('state').textContent = state.connected ? STATES[state.state] ?? 'connected' : 'not connected';
  const fault = state.fault || state.alarm || (program?.state === 'failed' ? program.fault : '');
  told('fault').textContent = fault;
  told('fault').hidden = !fault;
  root.classList.toggle('is-lost', Boolean(before.connected && !state.connected) || (root.classList.contains('is-lost') && !state.connected));
  const when = {
    alarm: Boolean(state.alarm) || state.state === 'alarm', program: Boolean(program), running: runs, idle: !runs,
    handy: !runs || Boolean(program?.at_rest),
    held: runs && ['held', 'waiting'].includes(program.state), notburning: !runs || program.kind === 'walk',
    burnt: Boolean(program) && program.kind !== 'walk', walking: runs && program.kind === 'walk',
  };
  for (const part of root.querySelectorAll('[data-when]')) part.hidden = !when[part.dataset.when];
  hold.disabled = !runs;
  hold.firstChild.textContent = when.held ? 'Go on ' : program?.state === 'holding' && runs ? 'Hold at once ' : 'Hold ';
  if (program) showProgram(state, runs);
  const { waiting } = state;
  told('ready').hidden = !waiting;
  if (waiting) told('ready').textContent = `Getting ready. Job ${waiting.number}, ${waiting.name}`;
  showPlace(state);
  showBeam(state.beam_s ?? 0);
  showMessages(state.messages ?? []);
  if (before.busy && !runs && program) ended(program);
}

function showProgram({ program, run, feed_mm_s: feed, power, trims }, runs) {
  const doing = run ? `Job ${run.number}, ${run.name}` : '';
  const states = {
    holding: 'Holding after this row', held: 'Held',
    waiting: program.asks ? `Take ${program.asks} up, touch it off, then go on` : 'It waits for you',
  };
  const word = runs ? states[program.state] ?? KINDS[program.kind] : `${KINDS[program.kind]}: ${ENDS[program.state] ?? ''}`;
  told('doing').textContent = doing ? `${word}. ${doing}` : word;
  told('elapsed').textContent = clock(program.elapsed_s);
  told('remaining').textContent = runs && program.planned_s ? `about ${clock(program.remaining_s)} to go` : '';
  told('share').value = program.state === 'done' ? 1 : program.share;
  const first = run?.first_row ?? 0;
  const counted = told('counted');
  counted.dataset.usual ??= counted.textContent;
  counted.textContent = program.kind === 'probe' ? 'Places' : counted.dataset.usual;
  told('rows').textContent = program.rows_all ? `${first + program.rows} of ${first + program.rows_all}` : '';
  told('feed').textContent = runs ? speed(feed ?? 0) : '';
  if (told('power')) told('power').textContent = runs ? `${(power ?? 0).toFixed(1)} %` : '';
  if (trims) {
    told('trim-speed').textContent = `${trims[0]} %`;
    if (told('trim-power')) told('trim-power').textContent = `${trims[2]} %`;
  }
  burned.show(run, program);
}

// What is burned already, before it is gone on with from a row

const again = root.querySelector('[data-again]');
async function preview() {
  const pk = Number(again.dataset.again);
  const answer = await fetch(`${root.dataset.runs}${pk}/row/?row=${encodeURIComponent(again.value)}`);
  const { share } = await answer.json();
  if (share !== undefined && !now.busy) burned.preview(pk, share);
}
again?.addEventListener('input', preview);
if (again) preview();

function showPlace({ bed: place, height: z }) {
  const head = root.querySelector('#head');
  head.toggleAttribute('hidden', !place);
  if (!place) return;
  const [x, y] = place;
  head.setAttribute('transform', `translate(${x} ${bed.height - y})`);
  const height = told('height');
  if (height && z !== undefined) height.textContent = `${length(z)} ${inches ? 'in' : 'mm'}`;
  const touched = told('touched');
  if (touched) touched.textContent = now.touched ? 'Touched off: the surface is zero.' : 'Not touched off yet.';
  told('place').textContent = `X ${length(x)} Y ${length(y)} ${inches ? 'in' : 'mm'}`;
}

function showBeam(seconds) {
  const ring = told('beam');
  ring.toggleAttribute('hidden', seconds <= 0);
  ring.style.setProperty('--gone', `${94.25 * (1 - seconds / FAINT_S)}`);
  root.querySelector('[data-faint]').textContent = seconds > 0 ? `Beam off, ${Math.ceil(seconds)} s` : 'Beam on';
}

let shown = '';
function showMessages(messages) {
  const key = JSON.stringify(messages);
  if (key === shown || !messages.length) return;
  shown = key;
  told('messages').replaceChildren(...messages.map(({ at, text }) => {
    const line = document.createElement('li');
    const time = document.createElement('time');
    time.textContent = new Date(1000 * at).toLocaleTimeString();
    line.append(time, text);
    return line;
  }));
}

// At the end, or on an alarm: a sound and a notice, where they are wanted

const sound = root.querySelector('[data-sound]');
sound.checked = localStorage.getItem('sound') === '1';
sound.addEventListener('change', async () => {
  localStorage.setItem('sound', sound.checked ? '1' : '0');
  if (sound.checked && 'Notification' in window) await Notification.requestPermission();
});

// The worker lets the job follow what was found, sooner or later; then it stands on the bed.
const heights = (page) => page.querySelector('.bed__heights')?.textContent;
async function showHeights(looks = LOOKS) {
  const answer = await fetch(location.href).catch(() => null);
  const page = answer?.ok ? new DOMParser().parseFromString(await answer.text(), 'text/html') : document;
  if (heights(page) !== heights(document) || looks < 1) location.reload();
  else setTimeout(showHeights, LOOKS_MS, looks - 1);
}

function ended(program) {
  if (program.kind === 'walk') return;
  if (program.kind === 'probe' && program.state === 'done') showHeights();
  const text = `${KINDS[program.kind]} ${ENDS[program.state] ?? ''}`;
  say(program.fault || text, { stays: true });
  if (!sound.checked) return;
  const context = new AudioContext();
  const tones = program.state === 'done' ? [660, 880] : [440, 330, 440, 330];
  tones.forEach((tone, at) => {
    const voice = context.createOscillator();
    voice.frequency.value = tone;
    voice.connect(context.destination);
    voice.start(context.currentTime + 0.25 * at);
    voice.stop(context.currentTime + 0.25 * at + 0.2);
  });
  if ('Notification' in window && Notification.permission === 'granted') new Notification('Old Ember', { body: program.fault || text });
}

// Told by events; where none come, asked for

function scale() {
  const svg = root.querySelector('.bed');
  const box = svg.getBoundingClientRect();
  const [, , wide, high] = svg.getAttribute('viewBox').split(' ').map(Number);
  svg.style.setProperty('--k', Math.max(wide / box.width, high / box.height));
}
window.addEventListener('resize', scale);
scale();

async function poll() {
  try {
    const answer = await fetch(`${root.dataset.base}state/`);
    show(await answer.json());
  } catch {
    show({ ...now, connected: false, busy: false, fault: 'The program cannot be reached. Is it still running?' });
  }
  setTimeout(poll, ASK_MS);
}

const source = new EventSource(`${root.dataset.base}events/`);
source.onmessage = (event) => show(JSON.parse(event.data));
source.onerror = () => {
  if (source.readyState !== EventSource.CLOSED) return;
  poll();
};
