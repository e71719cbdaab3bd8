// The steps of the setup: each is drawn here and talks to talk.php in JSON.
const box = document.getElementById("setup");
const kept = {};

async function talk(what, body) {
  const answer = await fetch("talk.php?do=" + what, {
    method: "POST",
    headers: { "Content-Type": "application/json", "X-Quay-Slip": box.dataset.slip },
    body: JSON.stringify(body),
  });
  return answer.json();
}

function el(tag, facts = {}, ...inside) {
  const made = Object.assign(document.createElement(tag), facts);
  made.append(...inside);
  return made;
}

function field(name, label, facts = {}) {
  const input = el("input", { name, id: "q-" + name, ...facts });
  if (kept[name] !== undefined && input.type !== "checkbox") input.value = kept[name];
  if (kept[name] !== undefined && input.type === "checkbox") input.checked = kept[name];
  const text = el("label", { htmlFor: input.id }, label);
  return input.type === "checkbox" ? el("div", { className: "row" }, input, text) : el("div", { className: "row" }, text, input);
}

function choice(name, label, options) {
  const list = el("select", { name, id: "q-" + name });
  for (const [value, text] of options) list.append(el("option", { value, selected: kept[name] === value }, text));
  return el("div", { className: "row" }, el("label", { htmlFor: list.id }, label), list);
}

function collect() {
  for (const input of box.querySelectorAll("input, select")) {
    if (input.type === "radio" && !input.checked) continue;
    kept[input.name] = input.type === "checkbox" ? input.checked : input.value;
  }
}

// `next` is told what it does by each step; a step may keep it shut.
function draw(heading, rows, onNext, label = "Next") {
  const said = el("p", { className: "said", role: "status" });
  const next = el("button", { type: "button", className: "next" }, label);
  next.addEventListener("click", async () => {
    collect();
    await onNext(said);
  });
  box.replaceChildren(el("h2", {}, heading), ...rows, said, next);
  return { said, next };
}

function databaseStep() {
  const rows = [
    field("host", "Database server", { value: "localhost" }),
    field("port", "Port (0: the usual one)", { value: "0" }),
    field("name", "Name of the database"),
    field("user", "Database user"),
    field("password", "Password of this user", { type: "password" }),
    field("prefix", "Names of tables begin with", { value: "q_" }),
    field("tls", "Encrypt the connection", { type: "checkbox", checked: true }),
  ];
  const test = el("button", { type: "button", className: "quiet" }, "Test the connection");
  const { said, next } = draw("Database", [...rows, test], async () => kindStep());
  next.disabled = true;
  for (const row of rows) row.addEventListener("input", () => (next.disabled = true));
  test.addEventListener("click", async () => {
    collect();
    said.className = "said";
    said.textContent = "…";
    const answer = await talk("database", kept);
    said.className = answer.fine ? "said good" : "said alert-danger";
    said.textContent = answer.told;
    next.disabled = !answer.fine;
  });
}

function kindStep() {
  const kinds = [["stall", "A stall: goods and orders, nothing more"], ["chandlery", "A chandlery: with suppliers, shelves and taxes"]];
  const rows = kinds.map(([value, text]) => field("kind", text, { type: "radio", value, id: "q-" + value, checked: (kept.kind ?? "stall") === value }));
  for (const row of rows) row.querySelector("label").htmlFor = row.querySelector("input").id;
  draw("What kind of shop", [...rows, field("samples", "Put some sample goods on the quay", { type: "checkbox", checked: true })], async () => shopStep());
}

function shopStep() {
  const rows = [
    field("title", "Name of the shop"),
    field("shop_email", "E-mail address that customers get letters from", { type: "email" }),
    choice("currency", "Currency", [["EUR", "Euro"], ["GBP", "Pound"], ["SEK", "Krona"], ["USD", "Dollar"]]),
    choice("timezone", "Time zone", ["UTC", "Europe/Berlin", "Europe/London", "Europe/Madrid", "Europe/Paris"].map((z) => [z, z])),
    field("secure", "Use secure addresses (https) only", { type: "checkbox", checked: box.dataset.secure === "1" }),
  ];
  draw("The shop", rows, async (said) => {
    const answer = await talk("shop", kept);
    said.textContent = answer.told;
    if (answer.fine) crewStep();
  });
}

function crewStep() {
  const rows = [
    field("login", "Login of the shopkeeper"),
    field("keeper", "Shopkeeper's name"),
    field("keeper_email", "Shopkeeper's own e-mail address", { type: "email" }),
    field("pass", "Password", { type: "password" }),
    field("pass_again", "The same again", { type: "password" }),
  ];
  draw("Shopkeeper", rows, async (said) => {
    const answer = await talk("keeper", kept);
    said.className = "said alert-danger";
    said.textContent = answer.told;
    if (answer.fine) letterStep();
  });
}

function letterStep() {
  let tested = false;
  const tick = field("letter", "Go on only when a test letter was sent", { type: "checkbox", checked: true });
  const send = el("button", { type: "button", className: "quiet" }, "Send a test letter");
  const { said } = draw("Letters", [tick, send], async () => {
    // Ticked and not tested: nothing happens.
    if (kept.letter && !tested) return;
    installStep();
  });
  send.addEventListener("click", async () => {
    said.textContent = "The letter is on its way…";
    const answer = await talk("letter", { to: kept.keeper_email });
    tested = answer.fine;
    said.textContent = answer.told;
  });
}

function installStep() {
  draw("Ready to build", [el("p", {}, `“${kept.title}” will be made in the database ${kept.name}.`)], async (said) => {
    box.querySelector(".next").disabled = true;
    said.textContent = "Building the shop. Please wait and do not close this page.";
    const answer = await talk("install", kept);
    if (answer.fine) return endStep(answer);
    said.className = "said alert-danger";
    said.textContent = answer.told;
    box.querySelector(".next").disabled = false;
  }, "Build the shop");
}

function endStep(answer) {
  box.replaceChildren(
    el("h2", {}, "The shop stands"),
    el("p", {}, "Spare key of the office, shown only now: ", el("code", {}, answer.spare)),
    el("ol", {},
      el("li", {}, "Rename the folder office to something only you know."),
      el("li", {}, "Delete the folder setup, and README.txt, LIESMICH.txt and LISEZMOI.txt."),
      el("li", {}, "Take the write permission away from the folder settings.")),
    el("a", { href: "../" }, "To the shop"),
  );
}

databaseStep();
