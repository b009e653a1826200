// What colleagues judge meanwhile shows without a reload: the page is asked for once more, and what is marked in it as living is put in place.
const page = document.querySelector("[data-live-source]");
let asking = false;
let again = false;

async function renew() {
  if (asking) {
    again = true;
    return;
  }
  asking = true;
  try {
    const answer = await fetch(location.href, { headers: { Accept: "text/html" } });
    if (answer.ok) {
      const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
      for (const part of document.querySelectorAll("[data-live]")) {
        const now = fresh.querySelector(`[data-live="${CSS.escape(part.dataset.live)}"]`);
        if (now && now.innerHTML !== part.innerHTML) {
          part.replaceWith(document.adoptNode(now));
          now.classList.add("fresh");
        }
      }
    }
  } finally {
    asking = false;
  }
  if (again) {
    again = false;
    renew();
  }
}

if (page && window.EventSource) {
  const events = new EventSource(page.dataset.liveSource);
  let seen = Number(page.dataset.seen);
  events.onmessage = (message) => {
    const { newest } = JSON.parse(message.data);
    if (newest !== seen) {
      seen = newest;
      renew();
    }
  };
  addEventListener("pagehide", () => events.close());
}
