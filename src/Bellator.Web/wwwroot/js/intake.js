// Dropping files, and watching an audit while it runs.
const drop = document.getElementById("drop");
const files = document.getElementById("files");
const chosen = document.getElementById("chosen");

function tell() {
  chosen.textContent = files.files.length === 0 ? "" : files.files.length === 1 ? files.files[0].name : `${files.files.length} files`;
}

files?.addEventListener("change", tell);
for (const name of ["dragenter", "dragover"]) {
  drop?.addEventListener(name, (event) => {
    event.preventDefault();
    drop.classList.add("over");
  });
}
drop?.addEventListener("dragleave", () => drop.classList.remove("over"));
drop?.addEventListener("drop", (event) => {
  event.preventDefault();
  drop.classList.remove("over");
  files.files = event.dataTransfer.files;
  tell();
});

// The upload is sent by a request that can be watched and ended; without this script the form does the same in one go.
const upload = document.getElementById("upload");
upload?.addEventListener("submit", (event) => {
  event.preventDefault();
  const [send, sent, text, stop] = ["send", "sent", "sent-text", "stop-sending"].map((id) => document.getElementById(id));
  const request = new XMLHttpRequest();
  const settle = (message) => {
    send.disabled = false;
    sent.hidden = stop.hidden = true;
    text.textContent = message;
  };
  request.open("POST", upload.action);
  request.upload.addEventListener("progress", (now) => {
    sent.value = now.total ? now.loaded / now.total : 0;
    text.textContent = now.loaded < now.total ? `${(now.loaded / 1e6).toFixed(1)} of ${(now.total / 1e6).toFixed(1)} MB sent` : "Sent; it is being put in its place.";
  });
  request.addEventListener("load", () => {
    if (request.status >= 400) {
      settle(request.status === 413 ? "Uploads may have at most 200 MiB. Leave out libraries and build results." : request.status === 503 ? "There is too much to do at present; try again in a moment." : `The server answered ${request.status}; try again.`);
    } else {
      location.assign(upload.action.split("?")[0]);
    }
  });
  request.addEventListener("error", () => settle("The connection broke off; nothing was taken in. Try again."));
  request.addEventListener("abort", () => settle("Cancelled; nothing was taken in."));
  stop.onclick = () => request.abort();
  send.disabled = true;
  sent.hidden = stop.hidden = false;
  request.send(new FormData(upload));
});

function watch(path, show) {
  const events = new EventSource(`${location.pathname}${path}/events`);
  events.onmessage = (message) => {
    const now = JSON.parse(message.data);
    show(now);
    if (now.over) {
      events.close();
      location.reload();
    }
  };
}

const intake = document.getElementById("intake");
if (intake?.dataset.state === "reading") {
  watch(`/intakes/${intake.dataset.intake}`, (now) => {
    document.getElementById("intake-text").textContent = `${now.filesDone.toLocaleString("en")} files, ${(now.bytesDone / 1e6).toFixed(1)} MB taken in`;
  });
}

const run = document.getElementById("run");
const order = ["queued", "reading", "following", "checking", "done"];

function showStage(stage) {
  for (const item of document.querySelectorAll("#run-stages li")) {
    const place = order.indexOf(item.dataset.stage) - order.indexOf(stage);
    item.className = place < 0 ? "past" : place === 0 ? "now" : "";
  }
}

if (run) {
  const waiting = ["queued", "running"].includes(run.dataset.state);
  showStage(waiting ? "queued" : "done");
  if (waiting) {
    watch(`/runs/${run.dataset.run}`, (now) => {
      document.getElementById("run-share").value = now.share;
      document.getElementById("run-text").textContent = `${now.filesDone.toLocaleString("en")} of ${now.filesTotal.toLocaleString("en")} files, ${now.findings.toLocaleString("en")} findings`;
      showStage(now.state === "queued" ? "queued" : now.stage);
      document.getElementById("run-title").textContent = now.state === "running" ? "Audit under way" : "Audit waits for its turn";
    });
  }
}
