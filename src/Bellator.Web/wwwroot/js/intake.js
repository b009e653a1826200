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
document.getElementById("upload")?.addEventListener("submit", () => {
  const send = document.getElementById("send");
  send.disabled = true;
  send.textContent = "Taking in …";
});

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
    const events = new EventSource(`${location.pathname}/runs/${run.dataset.run}/events`);
    events.onmessage = (message) => {
      const now = JSON.parse(message.data);
      document.getElementById("run-share").value = now.share;
      document.getElementById("run-text").textContent = `${now.filesDone} of ${now.filesTotal} files, ${now.findings} findings`;
      showStage(now.state === "queued" ? "queued" : now.stage);
      if (now.state === "running") {
        document.getElementById("run-title").textContent = "Audit under way";
      }
      if (now.over) {
        events.close();
        location.reload();
      }
    };
  }
}
