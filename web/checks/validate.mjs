// Validates a GLB by the Khronos validator and prints its counts and messages. Usage: node validate.mjs FILE.glb
import { readFileSync } from "node:fs";
import validator from "gltf-validator";

const report = await validator.validateBytes(new Uint8Array(readFileSync(process.argv[2])));
const { numErrors, numWarnings, numInfos, numHints, messages } = report.issues;
console.log(JSON.stringify({ numErrors, numWarnings, numInfos, numHints, messages: messages.slice(0, 20) }));
