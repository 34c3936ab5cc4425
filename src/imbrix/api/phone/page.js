/* The customer's phone: asks how the controls stand, turns them, loads a slot. Everything is decided by the server. */
'use strict';

const KEPT = 'imbrix-phone';
const ASK_MS = 1000;
const SEND_MS = 120;
const $ = (id) => document.getElementById(id);
const sections = [...document.querySelectorAll('[data-control]')];
const touched = {}; // what was turned just now, and when: an answer under way must not pull it back
let waiting = null;
let sending = false;

function read() {
  try {
    return localStorage.getItem(KEPT);
  } catch {
    return null;
  }
}

function say(text) {
  $('says').textContent = text;
  $('says').hidden = !text;
}

async function ask(path, body) {
  const headers = { authorization: `Bearer ${read() ?? ''}` };
  if (body) headers['content-type'] = 'application/json';
  const answer = await fetch(path, { method: body ? 'POST' : 'GET', headers, body: body && JSON.stringify(body) });
  const told = await answer.json();
  if (answer.ok) return told;
  if (answer.status === 401 && path !== 'pair') leave();
  throw new Error(typeof told.detail === 'string' ? told.detail : 'that was not understood');
}

function leave() {
  localStorage.removeItem(KEPT);
  $('controls').hidden = true;
  $('door').hidden = false;
}

const signed = (value) => `${value > 0 ? '+' : value < 0 ? '−' : ''}${Math.abs(value).toFixed(value % 1 ? 1 : 0)} dB`;

function show(state) {
  $('door').hidden = true;
  $('controls').hidden = false;
  $('name').textContent = state.name;
  for (const one of sections) {
    const name = one.dataset.control;
    const most = state.allowed[name];
    const input = one.querySelector('input');
    one.hidden = most === 0;
    input.min = name === 'lift_db' ? 0 : -most;
    input.max = name === 'volume_db' ? 0 : most;
    if (Date.now() - (touched[name] ?? 0) > 2 * ASK_MS) input.value = state.turned[name];
    write(one);
  }
  showSlots(state);
}

/* Buttons are made anew only where there are other slots: one that has the focus keeps it. */
function showSlots(state) {
  const slots = Object.entries(state.slots);
  const made = JSON.stringify(slots);
  $('sounds').hidden = slots.length === 0;
  if ($('slots').dataset.made !== made) {
    $('slots').dataset.made = made;
    $('slots').replaceChildren(
      ...slots.map(([slot, name]) => {
        const button = document.createElement('button');
        button.textContent = name;
        button.dataset.slot = slot;
        button.onclick = () => act('slot', { slot: Number(slot) });
        return button;
      }),
    );
  }
  for (const button of $('slots').children) {
    button.setAttribute('aria-pressed', String(state.slot === Number(button.dataset.slot)));
  }
}

function write(section) {
  const input = section.querySelector('input');
  const text = signed(Number(input.value));
  section.querySelector('output').textContent = text;
  input.setAttribute('aria-valuetext', text);
}

async function act(path, body) {
  try {
    show(await ask(path, body));
    say('');
  } catch (error) {
    say(error instanceof TypeError ? 'The car does not answer. Are you near it?' : `${error.message}.`);
  }
}

/* What is turned is sent at most so often, the last of it always. */
async function turn(values) {
  waiting = { ...waiting, ...values };
  if (sending) return;
  sending = true;
  while (waiting) {
    const body = waiting;
    waiting = null;
    await act('turn', body);
    await new Promise((done) => setTimeout(done, SEND_MS));
  }
  sending = false;
}

for (const one of sections) {
  const input = one.querySelector('input');
  const changed = () => {
    touched[one.dataset.control] = Date.now();
    write(one);
    void turn({ [one.dataset.control]: Number(input.value) });
  };
  input.oninput = changed;
  for (const button of one.querySelectorAll('button')) {
    button.onclick = () => {
      input.value = Number(input.value) + Number(button.dataset.by);
      changed();
    };
  }
}

async function pair(code) {
  try {
    const { token } = await ask('pair', { code: code.trim(), name: deviceName() });
    localStorage.setItem(KEPT, token);
    history.replaceState(null, '', location.pathname);
    say('');
    await act('state');
  } catch (error) {
    say(error instanceof TypeError ? 'The car does not answer. Are you near it?' : `${error.message}.`);
    $('door').hidden = false;
  }
}

function deviceName() {
  const found = /\(([^;)]+)/.exec(navigator.userAgent);
  return found ? found[1].slice(0, 40) : 'Phone';
}

$('pair').onsubmit = (event) => {
  event.preventDefault();
  void pair($('code').value);
};

if (location.hash.length > 1) void pair(location.hash.slice(1));
else if (read()) void act('state');
else $('door').hidden = false;
setInterval(() => {
  if (read() && !document.hidden && !sending) void act('state');
}, ASK_MS);
