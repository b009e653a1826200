// The map: what an address or a table has to do with stands out while it is pointed at, chosen or focused.
const map = document.getElementById("map");

function light(key, side) {
  map.classList.add("lit");
  for (const way of map.querySelectorAll("path.use")) {
    const on = way.dataset[side] === key;
    way.classList.toggle("on", on);
    if (on) {
      const other = side === "from" ? way.dataset.to : way.dataset.from;
      for (const end of map.querySelectorAll("a")) {
        if (end.dataset.key === other || end.dataset.key === key) {
          end.classList.add("on");
        }
      }
    }
  }
}

function rest() {
  map.classList.remove("lit");
  for (const lit of map.querySelectorAll(".on")) {
    lit.classList.remove("on");
  }
  const chosen = map.querySelector("a.chosen");
  if (chosen) {
    light(chosen.dataset.key, chosen.classList.contains("table") ? "to" : "from");
  }
}

if (map) {
  for (const end of map.querySelectorAll("a")) {
    const side = end.classList.contains("table") ? "to" : "from";
    const on = () => {
      rest();
      map.classList.remove("lit");
      for (const lit of map.querySelectorAll(".on")) {
        lit.classList.remove("on");
      }
      light(end.dataset.key, side);
    };
    end.addEventListener("pointerenter", on);
    end.addEventListener("focus", on);
    end.addEventListener("pointerleave", rest);
    end.addEventListener("blur", rest);
  }
  rest();
}

for (const select of document.querySelectorAll("#filters select, form.meaning select")) {
  select.addEventListener("change", () => select.form.requestSubmit());
}
