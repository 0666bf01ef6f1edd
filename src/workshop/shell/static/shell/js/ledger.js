// What hands have typed and the job does not hold yet, field by field. No answer
// may touch it: a swap asks here before it gives a field another value.

// typed, left and sent are times by the ledger's own clock: when a value was typed last,
// when its field was left with it, and when it was sent.
const books = new WeakMap(); // form -> Map of field name -> { typed, left, sent, fault }
let clock = 0;

const TYPED_IN = 'input:not([type=radio], [type=checkbox], [type=button], [type=submit], [type=file]), select, textarea';
const FIELD = 'input[name]:not([type=file], [name=""]), select[name], textarea[name]';
export const isField = (node) => node instanceof Element && node.matches(FIELD);
export const kept = (node) => node instanceof Element && node.matches(TYPED_IN);

function book(form) {
  if (!books.has(form)) books.set(form, new Map());
  return books.get(form);
}
// A slider has no name of its own: it stands for the number beside it.
const named = (field) => (field.dataset.for ? document.getElementById(field.dataset.for) : field);
const entry = (field) => {
  const own = named(field);
  return own?.form && own.name ? books.get(own.form)?.get(own.name) : undefined;
};

export function touch(field) {
  const own = named(field);
  if (!own?.form || !isField(own)) return;
  const known = book(own.form).get(own.name);
  book(own.form).set(own.name, { ...known, typed: ++clock });
}

// Left, or entered: what stands in it is meant.
export function leave(field) {
  const one = entry(field);
  if (one) one.left = one.typed;
}
export function leaveAll(form) {
  for (const [, one] of of(form)) one.left = one.typed;
}

// Give a field a value as if it had been typed and left.
export function put(form, name, value) {
  const field = form.elements[name];
  if (!field) return;
  field.value = value;
  clock += 1;
  book(form).set(name, { ...book(form).get(name), typed: clock, left: clock });
}

// Whether a swap must leave this field alone.
export function holds(field) {
  if (field === document.activeElement && kept(field)) return true;
  return entry(field) !== undefined;
}

const of = (form) => [...(books.get(form) ?? [])];
export const unsent = (form) => of(form).filter(([, one]) => one.typed !== one.sent).map(([name]) => name);
// All that the job does not hold yet, on its way or not; what was refused is left out.
export const pending = (form) => of(form).filter(([, one]) => !one.fault).map(([name]) => name);
export const isFaulty = (field) => Boolean(entry(field)?.fault);
export const forget = (form) => books.delete(form);

// A value that is being typed is not meant yet.
function half(form, name, one) {
  const at = document.activeElement;
  return kept(at) && at.form === form && named(at)?.name === name && at.type !== 'range' && one.left !== one.typed;
}

// What a request carries: all that is not held by the job, and when it was typed.
export function send(form) {
  const carried = new Map();
  for (const [name, one] of of(form)) {
    if (!form.elements[name]) book(form).delete(name);
    else if (!half(form, name, one)) {
      one.sent = one.typed;
      carried.set(name, one.typed);
    }
  }
  return carried;
}

// It arrived. What was refused stays, and goes with every further request.
export function arrived(form, carried, refused) {
  for (const [name, typed] of carried) {
    const one = books.get(form)?.get(name);
    if (!one) continue;
    if (refused.has(name)) one.fault = true;
    else if (one.typed === typed) book(form).delete(name);
    else one.fault = false;
  }
}
export function failed(form, carried) {
  for (const name of carried.keys()) {
    const one = books.get(form)?.get(name);
    if (one) one.sent = 0;
  }
}

// What the page showed before: the server tells by it whether somebody else changed it.
export function shownBefore(form, name) {
  const field = form.elements[name];
  const one = field instanceof RadioNodeList ? [...field].find((radio) => radio.defaultChecked) : field;
  if (!one) return '';
  if (one.matches('select')) return [...one.options].find((option) => option.defaultSelected)?.value ?? '';
  if (one.type === 'checkbox') return one.defaultChecked ? 'on' : '';
  return one.type === 'radio' ? one.value : one.defaultValue;
}

// A fast hand types before the scripts are there: what it typed is taken up.
for (const field of document.querySelectorAll('input[autocomplete=off]')) {
  if (field.value !== field.defaultValue) touch(field);
}
document.addEventListener('input', (event) => {
  if (event.target instanceof Element && !event.target.matches('[data-setting], [data-keep]')) touch(event.target);
}, true);
