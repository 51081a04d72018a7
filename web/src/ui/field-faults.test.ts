// @vitest-environment jsdom
import { afterEach, beforeAll, beforeEach, expect, test, vi } from "vitest";
import { tellFaults, watchFields } from "./field-faults.ts";

beforeAll(() => watchFields(document));
beforeEach(() => {
  vi.useFakeTimers();
  document.body.innerHTML = `<form>
    <label>Name <input name="name" required maxlength="100"></label>
    <label>Address <input name="webhook.url" type="url"></label>
    <label>To <input name="mail.to"></label>
    <label>Port <input data-path="device.port" name="port" type="number" min="1" max="65535"></label>
    <button>Save</button>
  </form>`;
  form().addEventListener("submit", (event) => event.preventDefault());
});
afterEach(() => vi.useRealTimers());
const form = () => document.querySelector("form") as HTMLFormElement;
const field = (name: string) => document.querySelector(`[name="${name}"]`) as HTMLInputElement;
const toldAt = (name: string) => {
  const fault = field(name).nextElementSibling;
  return fault && field(name).getAttribute("aria-describedby") === fault.id ? fault.textContent : null;
};
const send = () => {
  form().requestSubmit();
  vi.runAllTimers();
};
const type = (name: string, text: string) => {
  field(name).value = text;
  field(name).dispatchEvent(new Event("input", { bubbles: true }));
};

test("what is wrong is told at each field, in our words; the first of them takes the focus", () => {
  type("webhook.url", "quay");
  type("port", "70000");
  send();
  expect(toldAt("name")).toBe("Something has to stand here.");
  expect(toldAt("webhook.url")).toContain("An address begins with https://");
  expect(toldAt("port")).toBe("From 1 to 65535.");
  expect(field("name").getAttribute("aria-invalid")).toBe("true");
  expect(document.activeElement).toBe(field("name"));
});

test("a field that judges itself is not told a second time, and is not sent", () => {
  type("name", "Ines");
  field("mail.to").setCustomValidity("is no number");
  send();
  expect(document.querySelectorAll(".field-fault")).toHaveLength(0);
  expect(document.activeElement).toBe(field("mail.to"));
});

test("it goes once the field is changed, and is not told twice", () => {
  send();
  send();
  expect(document.querySelectorAll(".field-fault")).toHaveLength(1);
  type("name", "Ines");
  expect(toldAt("name")).toBeNull();
  expect(field("name").hasAttribute("aria-invalid")).toBe(false);
});

test("what the server refused is told at the fields by its paths; all that has none is left to the form", () => {
  type("name", "Ines");
  send();
  const faults = [
    { path: "mail.to[1]", message: "the mail address must be one" },
    { path: "device.port", message: "The port is taken." },
  ];
  expect(tellFaults(faults)).toBe(true);
  expect(toldAt("mail.to")).toBe("The mail address must be one.");
  expect(toldAt("port")).toBe("The port is taken.");
  expect(document.activeElement).toBe(field("mail.to"));
  expect(tellFaults([{ path: "mail.to.0", message: "is none" }])).toBe(true);
  expect(tellFaults([...faults, { path: "groupSeconds", message: "too long" }])).toBe(false);
  send();
  expect(document.querySelectorAll(".field-fault")).toHaveLength(0);
});

test("a form that has gone is told nothing", () => {
  type("name", "Ines");
  send();
  document.body.innerHTML = "";
  expect(tellFaults([{ path: "name", message: "x" }])).toBe(false);
});

test("what was sent by a button outside is not told at a form that was sent before; a button that only tries counts as its form's", () => {
  type("name", "Ines");
  send();
  const press = (where: HTMLElement) => {
    const button = Object.assign(document.createElement("button"), { type: "button" });
    where.append(button);
    button.click();
  };
  press(document.body);
  expect(tellFaults([{ path: "name", message: "is taken" }])).toBe(false);
  press(form());
  expect(tellFaults([{ path: "name", message: "is taken" }])).toBe(true);
});
