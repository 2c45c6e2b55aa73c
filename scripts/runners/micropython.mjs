// node micropython.mjs PROJECT MILLISECONDS TRACE.vcd: runs the modules of a project in the interpreter, compiled for WebAssembly, with
// machine.py in place of a controller, and writes what its pins do as a value change dump. Where the trace is -, it goes to standard
// output, and the level of a line that is read comes from standard input: 0 or 1.
import { openSync, readFileSync, readSync, readdirSync, writeSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";

const [project, ms, trace] = process.argv.slice(2);
const here = dirname(fileURLToPath(import.meta.url));
const modules = createRequire(join(here, "../../target/runners/"));
const { loadMicroPython } = await import(
    pathToFileURL(modules.resolve("@micropython/micropython-webassembly-pyscript/micropython.mjs"))
);

const lines = [];
const python = await loadMicroPython({ stdout: (line) => lines.push(line), linebuffer: true, heapsize: 1 << 18 });
const out = trace === "-" ? 1 : openSync(trace, "w");
const write = () => {
    let text = Buffer.from(lines.splice(0).map((line) => `${line}\n`).join(""));
    while (text.length > 0) {
        text = text.subarray(writeSync(out, text));
    }
};
python.registerJsModule("outside", {
    level: () => {
        write();
        const answer = Buffer.alloc(1);
        return trace === "-" && readSync(0, answer) === 1 && answer.toString() === "1" ? 1 : 0;
    },
});
python.FS.writeFile("/machine.py", readFileSync(join(here, "machine.py")));
for (const name of readdirSync(project).filter((name) => name.endsWith(".py"))) {
    python.FS.writeFile(`/${name}`, readFileSync(join(project, name)));
}
python.runPython(`
import machine
machine.begin(${Number(ms)})
try:
    import main
except machine.End:
    pass
`);
write();
