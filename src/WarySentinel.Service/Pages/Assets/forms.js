// Shows and hides the fields of a form as its answers say, as the server does when the form is sent (FilledForm, Condition, AnswerReader).
const blanks = '\\t\\n\\v\\f\\r \\u0085\\u00a0\\u1680\\u2000-\\u200a\\u2028\\u2029\\u202f\\u205f\\u3000\\ufeff';
const around = new RegExp(`^[${blanks}]+|[${blanks}]+$`, 'g');
const off = (text) => text.replace(around, '');
const small = (text) => text.replace(/[A-Z]/g, (letter) => letter.toLowerCase());

const numberOf = (text) => {
  const match = /^([+-]?)([0-9]{1,30})(?:[.,]([0-9]{1,30}))?$/.exec(text);
  if (!match) return null;
  const [whole, part] = [match[2].replace(/^0+/, ''), (match[3] ?? '').replace(/0+$/, '')];
  if (whole.length + part.length > 15) return null;
  const shown = (whole || '0') + (part && `.${part}`);
  return match[1] === '-' && shown !== '0' ? `-${shown}` : shown;
};

const isDay = (text) => {
  const match = /^([0-9]{4})-([0-9]{2})-([0-9]{2})$/.exec(text);
  if (!match || match[1] === '0000') return false;
  const [year, month, day] = match.slice(1).map(Number);
  const leap = year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
  return month >= 1 && month <= 12 && day >= 1 && day <= [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31][month - 1];
};

const first = (values, good) => values.slice(0, 1).filter(good ?? (() => true));
const plainOf = {
  'several-of': (values) => [...new Set(values)],
  'yes-no': (values) => first(values, (v) => v === 'yes' || v === 'no'),
  consent: (values) => first(values, (v) => v === 'yes'),
  number: (values) => first(values).map((v) => numberOf(v) ?? v),
  text: (values) => first(values).map(small),
};

/** What conditions see of a field; null where nothing was typed. */
export const plain = (kind, typed) => {
  const values = typed.map(off).filter((text) => text.length > 0);
  const seen = (plainOf[kind] ?? first)(values);
  return seen.length > 0 ? { kind, values: seen } : null;
};

const lies = (asked, { kind, values: [value] }) => {
  if (kind === 'date') return isDay(value) && (asked.atLeast == null || asked.atLeast <= value) && (asked.atMost == null || value <= asked.atMost);
  const number = numberOf(value);
  return number !== null && (asked.atLeast == null || Number(asked.atLeast) <= Number(number)) && (asked.atMost == null || Number(number) <= Number(asked.atMost));
};

/** Whether a condition holds. */
export const holds = (condition, answer) => {
  if (!condition) return true;
  if (condition.all) return condition.all.every((part) => holds(part, answer));
  if (condition.any) return condition.any.some((part) => holds(part, answer));
  if (condition.not) return !holds(condition.not, answer);
  const given = answer(condition.field);
  if (condition.given != null) return condition.given === (given !== null);
  return given !== null && (condition.is ? condition.is.some((value) => given.values.includes(value)) : lies(condition, given));
};

/** The fields and sections that are shown. What is not shown counts as not answered. */
export const shown = (rules, typed) => {
  const seen = new Map();
  const answer = (key) => seen.get(key) ?? null;
  for (const field of rules.fields) {
    if (holds(rules.sections[field.section], answer) && holds(field.shownIf, answer)) seen.set(field.key, plain(field.kind, typed(field.key)));
  }
  return { fields: [...seen.keys()], sections: rules.sections.flatMap((condition, place) => (holds(condition, answer) ? [place] : [])) };
};

const typedIn = (form, key) =>
  [...form.elements]
    .filter((input) => input.name === `f.${key}` && (!['checkbox', 'radio'].includes(input.type) || input.checked))
    .map((input) => input.value);

const show = (form, rules) => {
  const now = shown(rules, (key) => typedIn(form, key));
  for (const section of form.querySelectorAll('[data-section]')) section.hidden = !now.sections.includes(Number(section.dataset.section));
  for (const field of form.querySelectorAll('[data-field]')) {
    field.hidden = !now.fields.includes(field.dataset.field);
    for (const input of field.querySelectorAll('input, select, textarea')) input.disabled = field.hidden;
  }
};

// One section after the other, with a way back; what is not shown is passed by.
const steps = (form) => {
  const { steps: said, back, next } = form.dataset;
  const send = form.querySelector(':scope > button.prime');
  const bar = document.createElement('div');
  bar.className = 'steps';
  const [word, before, after] = ['p', 'button', 'button'].map((tag) => bar.appendChild(document.createElement(tag)));
  word.setAttribute('role', 'status');
  [before.type, after.type, before.className, after.className] = ['button', 'button', 'link', 'prime'];
  [before.textContent, after.textContent] = [back, next];
  send.before(bar);
  let place = 0;
  const all = () => [...form.querySelectorAll('[data-step]')].filter((section) => !section.hidden && (!section.dataset.section || section.querySelector('[data-field]:not([hidden])')));
  const draw = () => {
    const there = all();
    place = Math.min(place, there.length - 1);
    for (const section of form.querySelectorAll('[data-step]')) section.classList.toggle('waits', section !== there[place]);
    word.textContent = said.replace('{n}', place + 1).replace('{all}', there.length);
    before.hidden = place === 0;
    after.hidden = place === there.length - 1;
    send.hidden = !after.hidden;
  };
  const go = (to) => {
    place = to;
    draw();
    all()[place].querySelector('input:not([type=hidden]), select, textarea')?.focus();
  };
  after.addEventListener('click', () => {
    const bad = [...all()[place].querySelectorAll('input, select, textarea')].find((input) => !input.disabled && !input.checkValidity());
    if (bad) bad.reportValidity();
    else go(place + 1);
  });
  before.addEventListener('click', () => go(place - 1));
  // Return in a field of a step that is not the last goes on, and sends nothing.
  form.addEventListener('keydown', (event) => {
    if (event.key === 'Enter' && event.target.tagName === 'INPUT' && !after.hidden) {
      event.preventDefault();
      after.click();
    }
  });
  form.addEventListener('change', draw);
  // What the server found wrong is shown first.
  const wrong = form.querySelector('.wrong, [aria-invalid=true]')?.closest('[data-step]');
  place = Math.max(0, all().indexOf(wrong));
  draw();
};

// The work goes on beside, from the first moment; whoever is faster waits for it.
const work = (form) => {
  const field = form.elements.work;
  if (!field || !form.dataset.seal || !globalThis.Worker || !globalThis.crypto?.subtle) return;
  const worker = new Worker(new URL('work.js', import.meta.url));
  const button = form.querySelector(':scope > button.prime');
  let waits = false;
  worker.onmessage = ({ data }) => {
    field.value = data;
    worker.terminate();
    if (waits) form.requestSubmit(button);
  };
  worker.onerror = () => {
    field.value = '-';
    if (waits) form.requestSubmit(button);
  };
  form.addEventListener('submit', (event) => {
    if (field.value) return;
    event.preventDefault();
    waits = true;
    button.disabled = false;
    button.textContent = form.dataset.working;
  });
  worker.postMessage({ seal: form.dataset.seal, bits: Number(form.dataset.bits) });
};

if (globalThis.document) {
  for (const form of document.querySelectorAll('form[data-form]')) {
    const rules = JSON.parse(form.dataset.form);
    for (const kind of ['input', 'change']) form.addEventListener(kind, () => show(form, rules));
    show(form, rules);
    if (form.dataset.steps) steps(form);
    work(form);
    form.querySelector('.wrong')?.parentElement.querySelector('input, select, textarea')?.focus();
  }
}
