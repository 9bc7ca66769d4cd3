// A compiled JSON Schema validator over records, a line each, answered a line each: node check.mjs SCHEMA RECORDS ANSWERS
import { createReadStream, createWriteStream, readFileSync } from "node:fs";
import { once } from "node:events";
import Ajv from "ajv/dist/2020.js";
import formats from "ajv-formats";

const [schema, records, answers] = process.argv.slice(2);
const ajv = new Ajv({ allErrors: true, strict: false });
formats(ajv);
const validate = ajv.compile(JSON.parse(readFileSync(schema, "utf8")));

const began = performance.now();
const output = createWriteStream(answers);
let [rest, right, wrong] = ["", 0, 0];
for await (const chunk of createReadStream(records, { encoding: "utf8", highWaterMark: 256 * 1024 })) {
  const lines = (rest + chunk).split("\n");
  rest = lines.pop();
  let written = "";
  for (const line of lines) {
    const ok = validate(JSON.parse(line));
    if (ok) right++;
    else wrong++;
    const problems = ok ? [] : validate.errors.map((e) => ({ field: e.instancePath, code: e.keyword, message: e.message }));
    written += JSON.stringify({ ok, problems }) + "\n";
  }
  if (!output.write(written)) await once(output, "drain");
}
output.end();
await once(output, "finish");
console.log(`${((performance.now() - began) / 1000).toFixed(3)} ${right} ${wrong}`);
