// Reads an answer that comes line by line while the server works.
export async function lines(answer, tell) {
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const whole = (rest + part.value).split("\n");
    rest = whole.pop();
    whole.filter((line) => line).forEach((line) => tell(JSON.parse(line)));
  }
}
