// Settings of the drawing tools: how large the brush is, and so on. They belong
// to the operator, not to the job, and are kept in the browser.

const KEY = 'ember-tools';
const UNITS = { size: 'mm', shade: 'mm', softness: '%', shadesoft: '%', strength: '%', tolerance: '' };

let kept = {};
try {
  kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') ?? {};
} catch { /* a damaged memory is no memory */ }

const PLAIN = { size: 6, softness: 30, shade: 8, shadesoft: 80, strength: 25, tolerance: 24, touching: true, keep: false };

export function setting(name) {
  return kept[name] ?? PLAIN[name];
}

function remember(name, value) {
  kept[name] = value;
  try {
    localStorage.setItem(KEY, JSON.stringify(kept));
  } catch { /* private windows have no storage */ }
}

function shown(field) {
  const name = field.dataset.setting;
  const inches = document.querySelector('#pictures')?.dataset.unit === 'in';
  if (UNITS[name] === 'mm' && inches) return `${(field.value / 25.4).toFixed(3)} in`;
  return `${Number(field.value)} ${UNITS[name]}`.trim();
}

function paint(field) {
  if (field.type !== 'range') return;
  field.style.setProperty('--v', `${((field.value - field.min) / (field.max - field.min)) * 100}%`);
  const output = field.parentElement.querySelector('output');
  if (output) output.textContent = shown(field);
}

// Show the settings in whatever fields the page has for them.
export function fill() {
  document.querySelectorAll('[data-setting]').forEach((field) => {
    const value = setting(field.dataset.setting);
    if (field.type === 'checkbox') field.checked = value;
    else field.value = value;
    paint(field);
  });
  document.querySelectorAll('[data-keep]').forEach((field) => {
    field.checked = (field.dataset.keep === '1') === setting('keep');
  });
}

// They are nobody's business but ours: the station's form must not post for them.
function own(event) {
  const field = event.target;
  if (field.matches?.('[data-setting]')) {
    remember(field.dataset.setting, field.type === 'checkbox' ? field.checked : Number(field.value));
    paint(field);
    document.dispatchEvent(new CustomEvent('ember:setting'));
  } else if (field.matches?.('[data-keep]')) remember('keep', field.dataset.keep === '1');
  else return;
  event.stopPropagation();
}
document.addEventListener('input', own, true);
document.addEventListener('change', own, true);
document.addEventListener('htmx:afterSwap', fill);
fill();
