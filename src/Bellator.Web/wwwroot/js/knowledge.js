// Trials under way show how far they are; when one is over, the page is loaded again with what it came to.
for (const trial of document.querySelectorAll("[data-trial]")) {
  const review = location.pathname.split("/")[2];
  const events = new EventSource(`/reviews/${review}/runs/${trial.dataset.trial}/events`);
  events.onmessage = (message) => {
    const { stage, share, over } = JSON.parse(message.data);
    trial.querySelector("[data-trial-stage]").textContent = stage;
    trial.querySelector("progress").value = share;
    if (over) {
      events.close();
      location.reload();
    }
  };
  addEventListener("pagehide", () => events.close());
}
