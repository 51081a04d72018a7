import { fieldFaultWords } from "../../../core/forms/field-words.ts";

type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

const className = "field-fault";
/** What a form says of a refusal that stands at its fields. */
export const atTheFields = "It is not taken yet: what is wrong stands at its field.";
let count = 0;
/** The form from which something was sent last: what a server finds wrong is told at its fields. */
let sent: HTMLFormElement | undefined;

/**
 * Tells what is wrong with a field right at it, in our words, wherever in the application the field stands: before
 * anything is sent, in the place of the browser's own bubbles, until the field is changed.
 */
export function watchFields(page: Document): void {
  page.addEventListener(
    "invalid",
    (event) => {
      if (!isField(event.target)) return;
      event.preventDefault();
      const field = event.target;
      const { form } = field;
      const isFirst = !form || form.querySelector(`.${className}[data-now]`) === null;
      // A field that judges itself says so itself.
      if (!field.validity.customError) tellAt(field, fieldFaultWords(field.validity, kindOf(field)));
      if (isFirst) field.focus();
      markNow(form);
    },
    true,
  );
  page.addEventListener(
    "submit",
    ({ target }) => {
      if (!(target instanceof HTMLFormElement)) return;
      sent = target;
      for (const fault of target.querySelectorAll(`.${className}`)) takeAway(fault);
    },
    true,
  );
  // Not every button that sends submits its form; what is sent from outside a form is none's.
  page.addEventListener(
    "click",
    ({ target }) => {
      const button = target instanceof Element ? target.closest("button") : null;
      if (button) sent = button.form ?? undefined;
    },
    true,
  );
  page.addEventListener("input", ({ target }) => isField(target) && clearAt(target), true);
  page.addEventListener("change", ({ target }) => isField(target) && clearAt(target), true);
}

/**
 * Tells what a server found wrong at the fields of the form from which something was sent last; a field is known by its name, the path
 * of what was sent. Answers whether all have a field; of what has none, the form itself must tell.
 */
export function tellFaults(faults: readonly { readonly path: string; readonly message: string }[]): boolean {
  if (!sent?.isConnected || faults.length === 0) return false;
  let first: Field | undefined;
  let placed = 0;
  for (const { path, message } of faults) {
    const field = fieldOf(sent, path);
    if (!field) continue;
    placed++;
    tellAt(field, `${message.charAt(0).toUpperCase()}${message.slice(1)}${/[.!?]$/.test(message) ? "" : "."}`);
    first ??= field;
  }
  first?.focus();
  return placed === faults.length;
}

/** The field of a path: "webhook.url"; of a list's entry ("mail.to[1]") the field of the list where there is no other. */
function fieldOf(form: HTMLFormElement, path: string): Field | undefined {
  const named = (name: string) =>
    [...form.elements].find((one): one is Field => isField(one) && (one.dataset["path"] ?? one.name) === name);
  return path === "" ? undefined : (named(path) ?? named(path.replace(/(\[|\.)\d+(\]|\.|$).*$/, "")));
}

function tellAt(field: Field, words: string): void {
  clearAt(field);
  const fault = field.ownerDocument.createElement("span");
  fault.className = className;
  fault.id = `field-fault-${++count}`;
  fault.setAttribute("role", "alert");
  fault.textContent = words;
  field.after(fault);
  field.setAttribute("aria-invalid", "true");
  field.setAttribute("aria-describedby", fault.id);
}

function clearAt(field: Field): void {
  const fault = field.nextElementSibling;
  if (fault?.classList.contains(className)) takeAway(fault);
}

function takeAway(fault: Element): void {
  const field = fault.previousElementSibling;
  fault.remove();
  field?.removeAttribute("aria-invalid");
  if (field?.getAttribute("aria-describedby") === fault.id) field.removeAttribute("aria-describedby");
}

/** All faults of one try to send are told in one go: the first of them takes the focus. */
function markNow(form: HTMLFormElement | null): void {
  const fresh = [...(form?.querySelectorAll(`.${className}`) ?? [])];
  for (const fault of fresh) fault.setAttribute("data-now", "");
  setTimeout(() => {
    for (const fault of fresh) fault.removeAttribute("data-now");
  });
}

const isField = (target: EventTarget | null): target is Field =>
  target instanceof HTMLInputElement || target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement;

function kindOf(field: Field) {
  const { min = "", max = "", minLength = -1, maxLength = -1 } = field as Partial<HTMLInputElement>;
  return { type: field.type, min, max, minLength, maxLength, title: field.title };
}
