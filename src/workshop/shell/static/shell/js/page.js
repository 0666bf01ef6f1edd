// What every page has: the list of keys, faults of requests, two-press buttons, uploads.

import './swap.js';

const $ = (selector, root = document) => root.querySelector(selector);

export const typing = (target) =>
  target instanceof HTMLElement &&
  (target.matches('input:not([type=range]):not([type=radio]):not([type=checkbox]), select, textarea') ||
    target.isContentEditable);

// A message is a node of its own each time, so that none comes faded already.
export function say(text, { stays = false } = {}) {
  const place = $('#said');
  if (!place) return;
  const line = document.createElement('span');
  line.textContent = text;
  line.classList.toggle('is-staying', stays);
  place.replaceChildren(...(text ? [line] : []));
}

// A refusal stands where it was asked for, until the next try.
function refuse(node, text) {
  say(text, { stays: true });
  const place = node?.closest?.('.row, .finding, .op, .op__add, li, form, .station__body') ?? null;
  if (!place?.isConnected) return;
  const line = document.createElement('p');
  line.className = 'fault is-refusal';
  line.setAttribute('role', 'alert');
  line.textContent = text;
  place.after(line);
}
document.addEventListener('htmx:beforeRequest', (event) => {
  if (event.detail.requestConfig.verb === 'get' && !event.detail.requestConfig.triggeringEvent) return;
  document.querySelectorAll('.is-refusal').forEach((line) => line.remove());
});

// The list of keys

function toggleKeys() {
  const list = $('#keys');
  const button = $('[data-keys]');
  list.hidden = !list.hidden;
  button.setAttribute('aria-expanded', String(!list.hidden));
}
document.addEventListener('click', (event) => {
  if (event.target.closest('[data-keys]')) toggleKeys();
  else if (!event.target.closest('#keys') && !$('#keys').hidden) toggleKeys();
});

document.addEventListener('keydown', (event) => {
  if (event.key === 'Escape' && !$('#keys').hidden) toggleKeys();
  if (typing(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  const act = {
    '?': toggleKeys,
    h: () => location.assign($('.rail__brand').href),
    n: () => $('#upload-files')?.click(),
    '/': () => $('.rack__find input')?.focus(),
  }[event.key];
  if (act) {
    event.preventDefault();
    act();
  }
});

// Millimetres or inches, for this operator

document.addEventListener('click', (event) => {
  const button = event.target.closest('[data-units]');
  if (!button) return;
  const unit = button.dataset.units === 'in' ? 'mm' : 'in';
  const turn = () => {
    document.cookie = `units=${unit}; path=/; max-age=315360000; SameSite=Lax`;
    location.reload();
  };
  // What was typed in the old unit is saved in it first.
  const asked = new CustomEvent('ember:leave', { detail: turn, cancelable: true });
  if (document.dispatchEvent(asked)) turn();
});

// A request that could not be answered says so

document.addEventListener('htmx:responseError', (event) => {
  const { xhr, elt } = event.detail;
  const inWords = xhr.getResponseHeader('Content-Type')?.startsWith('text/plain');
  if (xhr.status === 422 || inWords) refuse(elt, xhr.responseText);
  else say('That did not work; nothing was changed. Try again.', { stays: true });
});
document.addEventListener('htmx:sendError', (event) => {
  // Fields say for themselves that they are not saved yet.
  if (event.detail.elt?.matches?.('[data-ledger]')) return;
  say('The program cannot be reached. Is it still running?', { stays: true });
});

// Stop acts as the finger goes down, past all that is queued or swapped

const headers = () => JSON.parse(document.body.getAttribute('hx-headers'));
async function stop(button) {
  try {
    const answer = await fetch(button.dataset.stop, { method: 'POST', headers: headers(), keepalive: true });
    if (!answer.ok) throw new Error(answer.status);
  } catch {
    say('Stop could not be sent! Use the switch of the machine.', { stays: true });
  }
  button.dispatchEvent(new CustomEvent('stopped', { bubbles: true }));
}
document.addEventListener('pointerdown', (event) => {
  const button = event.target.closest('[data-stop]');
  if (button && event.button === 0) stop(button);
});
document.addEventListener('keydown', (event) => {
  const button = event.target.closest?.('[data-stop]');
  if (!button || event.repeat || !['Enter', ' '].includes(event.key)) return;
  event.preventDefault();
  stop(button);
});

// Buttons that need a second press

document.addEventListener('submit', (event) => {
  const words = event.target.dataset?.twice;
  if (!words) return;
  if (event.target.dataset.pressed && !event.target.dataset.then) return;
  event.preventDefault();
  if (event.target.dataset.pressed) {
    event.target.dispatchEvent(new CustomEvent(event.target.dataset.then));
    return;
  }
  event.target.dataset.pressed = '1';
  const label = $('button span', event.target);
  const before = label.textContent;
  label.textContent = words;
  setTimeout(() => {
    delete event.target.dataset.pressed;
    label.textContent = before;
  }, 4000);
});

// Uploads: progress, and drop anywhere on the rack

const upload = {
  show(share, words) {
    const line = $('#upload');
    if (!line) return;
    line.hidden = false;
    const bar = $('progress', line);
    if (share === null) bar.removeAttribute('value');
    else bar.value = share;
    $('span', line).textContent = words;
  },
  fault(words) {
    const place = $('#upload-fault');
    $('#upload').hidden = true;
    place.textContent = words;
    place.hidden = !words;
  },
};
document.addEventListener('htmx:xhr:progress', (event) => {
  if (event.target.id !== 'upload-form') return;
  const { loaded, total } = event.detail;
  if (!total) return;
  if (loaded >= total) upload.show(null, 'Reading the picture');
  else upload.show(loaded / total, `${Math.round((100 * loaded) / total)} % sent`);
});
document.addEventListener('htmx:beforeRequest', (event) => {
  if (event.target.id !== 'upload-form') return;
  upload.fault('');
  upload.show(0, 'Sending');
});
document.addEventListener('htmx:afterRequest', (event) => {
  if (event.target.id !== 'upload-form') return;
  const { xhr, successful } = event.detail;
  $('#upload-files').value = '';
  if (!successful) {
    upload.fault(xhr.status === 422 ? xhr.responseText : 'The upload was cut off; try again.');
  }
});

// Several pictures at once: a ticket each, or one ticket to choose from

function send(together) {
  $('#several').hidden = true;
  $('#upload-form [name=together]').value = together;
  window.htmx.trigger('#upload-form', 'send');
}
document.addEventListener('change', (event) => {
  if (event.target.id !== 'upload-files' || !event.target.files.length) return;
  const count = event.target.files.length;
  if (count === 1) return send('');
  $('#several span').textContent = `${count} pictures:`;
  $('#several').hidden = false;
  $('#several button').focus();
});
document.addEventListener('click', (event) => {
  const button = event.target.closest('[data-together]');
  if (button) send(button.dataset.together);
});

// Several tickets chosen, for what is done with all of them
function countChosen() {
  const count = document.querySelectorAll('.rticket__pick :checked').length;
  const line = $('.severalbar__count');
  if (line) line.textContent = `${count} chosen`;
}
document.addEventListener('change', (event) => event.target.matches?.('.rticket__pick input') && countChosen());
document.addEventListener('reset', () => setTimeout(countChosen));

// Where dropped and pasted files go: the rack, or the ticket that shows its artwork
const takesFiles = () => $('#upload-files') ?? $('#sheet-files');
function take(files) {
  const field = takesFiles();
  field.files = files;
  field.dispatchEvent(new Event('change', { bubbles: true }));
}
document.addEventListener('paste', (event) => {
  const files = event.clipboardData?.files;
  if (!files?.length || !takesFiles()) return;
  event.preventDefault();
  take(files);
});
['dragover', 'dragenter'].forEach((name) =>
  document.addEventListener(name, (event) => {
    if (!event.dataTransfer?.types.includes('Files')) return;
    // Always: a browser left alone would open the file in place of the page.
    event.preventDefault();
    if (takesFiles()) document.body.classList.add('is-dropping');
  }));
document.addEventListener('dragleave', (event) => {
  if (!event.relatedTarget) document.body.classList.remove('is-dropping');
});
document.addEventListener('drop', (event) => {
  if (!event.dataTransfer?.files.length || event.target.matches?.('input[type=file]')) return;
  event.preventDefault();
  // A pattern, or a hanging ticket, takes what is dropped on it.
  const own = event.target.closest?.('.pattern, .rticket')?.querySelector('[data-drop] input[type=file]');
  if (own) {
    document.body.classList.remove('is-dropping');
    own.files = event.dataTransfer.files;
    own.dispatchEvent(new Event('change', { bubbles: true }));
    say('Reading the pictures.', { stays: true });
    return;
  }
  if (!takesFiles()) return say('Pictures are imported on the rack, or on a ticket’s Artwork station.');
  document.body.classList.remove('is-dropping');
  take(event.dataTransfer.files);
});
