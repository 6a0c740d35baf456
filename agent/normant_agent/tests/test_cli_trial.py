import json
import tempfile
from pathlib import Path
from unittest import TestCase

from typer.testing import CliRunner, Result

from normant_agent.cli.program import app

from .bench import EXAMPLES

RENDERS = {"cpu": (418, 411, 424, 415), "gpu0": (352, 349, 360, 355), "gpu1": (96, 98, 95, 97)}
SCREENED = (27.8, 24.9, 36.1, 32.0, 24.7, 27.6, 32.3, 36.7, 32.2, 36.0, 25.0, 27.9, 36.2, 32.0, 27.8, 25.0)


SURVEY = EXAMPLES / "pan-03.survey.json"


def normant(*words: object) -> Result:
    return CliRunner().invoke(app, [str(word) for word in words])


def run(*words: object) -> Result:
    return normant("trial", *words)


class Trial(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.runs = Path(folder.name, "runs.csv")

    def write(self, *rows: str) -> Path:
        self.runs.write_text("\n".join(rows) + "\n", "utf-8")
        return self.runs

    def renders(self) -> Path:
        rows = [f"kiln-01,{n},{name},{values[n]}" for n in range(4) for name, values in RENDERS.items()]
        return self.write("seat,block,condition,value", *rows)

    def test_a_verdict_as_json_and_as_a_sentence(self) -> None:
        done = run("verdict", self.renders(), "--job", "render", "--format", "json")
        shown = json.loads(done.stdout)
        self.assertEqual(done.exit_code, 0)
        ratios = {(c["of"], c["against"]): round(c["ratio"], 3) for c in shown["comparisons"]}
        self.assertEqual(ratios, {("gpu0", "cpu"): 1.178, ("gpu1", "cpu"): 4.321, ("gpu1", "gpu0"): 3.668})
        self.assertEqual(
            set(shown["comparisons"][0]), {"of", "against", "ratio", "low", "high", "outcome", "seats", "blocks"}
        )
        self.assertEqual(run("verdict", self.runs, "--job", "render").stdout.strip(), shown["sentence"])
        against = json.loads(
            run("verdict", self.runs, "--job", "render", "--against", "cpu", "--format", "json").stdout
        )
        self.assertEqual([c["of"] for c in against["comparisons"]], ["gpu0", "gpu1"])

    def test_too_few_runs_have_no_numbers(self) -> None:
        self.write("seat,block,condition,value", "a,1,x,3", "a,1,y,4")
        (compared,) = json.loads(run("verdict", self.runs, "--job", "play", "--format", "json").stdout)["comparisons"]
        self.assertEqual((compared["outcome"], compared["high"]), ("too few runs", None))

    def test_a_design_is_a_table_that_a_screening_reads(self) -> None:
        laid = run("design", "--factors", "A,B,C,D,E,F,G", "--fold", "--seed", "7")
        head, *rows = laid.stdout.splitlines()
        self.assertEqual((head, len(rows)), ("block,A,B,C,D,E,F,G,value", 16))
        made = self.write(
            head, *(f"{row}{28 + 7 * (row.split(',')[2] == '1') + n % 3 / 10}" for n, row in enumerate(rows))
        )
        done = run("screen", made, "--job", "play", "--format", "json")
        effects = {effect["factor"]: effect["outcome"] for effect in json.loads(done.stdout)["effects"]}
        self.assertEqual(effects.pop("B"), "better")
        self.assertEqual(set(effects.values()), {"no difference shown"})
        self.assertIn("B matters", run("screen", made, "--job", "play").stdout)

    def test_blocks_of_conditions(self) -> None:
        done = run("design", "--conditions", "x, y", "--blocks", 3, "--restarting", "--format", "json")
        shown = json.loads(done.stdout)
        self.assertEqual((len(shown["runs"]), shown["restarts"]), (6, 4))
        self.assertEqual(
            run("design", "--conditions", "x,y", "--blocks", 2).stdout.splitlines()[0], "block,condition,value"
        )

    def test_bad_input_exits_with_two_and_says_where(self) -> None:
        cases = {
            ":2:4: 0 is no figure of a run": ("seat,block,condition,value\na,1,x,0", ("verdict", "--job", "play")),
            ":1:5: unknown column 'z'": ("seat,block,condition,value,z", ("verdict", "--job", "play")),
            "no run has the condition 'q'": (
                "seat,block,condition,value\na,1,x,1\na,1,y,1", ("verdict", "--job", "play", "--against", "q"),
            ),
            "2 runs cannot tell 3 factors apart": ("a,b,c,value\n1,1,1,2\n1,1,-1,2", ("screen", "--job", "play")),
        }  # fmt: skip
        for sentence, (text, words) in cases.items():
            with self.subTest(sentence):
                done = run(words[0], self.write(text), *words[1:])
                self.assertEqual(done.exit_code, 2)
                self.assertIn(sentence, done.stderr)
        self.runs.write_bytes(b"seat,block,condition,value\n\xff")
        self.assertIn("the table is not text", run("verdict", self.runs, "--job", "play").stderr)
        self.assertIn("cannot be read", run("verdict", self.runs / "no", "--job", "play").stderr)
        for words, sentence in (((), "either --factors"), (("--conditions", "a"), "1 conditions: expected 2 to 8")):
            done = run("design", *words)
            self.assertEqual((done.exit_code, sentence in done.stderr), (2, True), done.stderr)


class Machine(TestCase):
    def test_a_seat_whose_preview_would_reach_its_exports_is_not_ready(self) -> None:
        done = normant("ready", SURVEY)
        self.assertEqual(done.exit_code, 1)
        self.assertIn("pan-03: No: 1 setting affects the export.", done.output)
        self.assertIn("Plinthe: Raw decoding scale is 1/4, and Full raw decoding at delivery is off", done.output)
        answer = json.loads(normant("ready", SURVEY, "--format", "json").output)
        self.assertEqual((answer["seat"], answer["ready"], len(answer["guards"])), ("pan-03", False, 1))

    def test_a_plan_of_memory_from_a_survey(self) -> None:
        words = ("memory", "plan", SURVEY, "--frame", "3840x2160", "--bits", 16, "--per-worker", "3.5 GiB")
        made = json.loads(normant(*words, "--format", "json").stdout)
        # 64 GiB without the 1.5 that the survey holds back, 8 in front, and a pool of 40 %: 28.9 for workers.
        self.assertEqual((made["workers"], made["pool"]), (8, int(64 * 2**30 * 4 / 10)))
        self.assertIn("8 workers and a preview pool of 25.6 GiB", normant(*words).stdout)
        over = normant(*words, "--workers", 40)
        self.assertEqual((over.exit_code, "more than there is" in over.stdout), (1, True))

    def test_what_a_survey_does_not_say_is_asked_for(self) -> None:
        cases = {
            "say it with --per-worker": ("--frame", "3840x2160"),
            "is no frame size": ("--frame", "wide", "--per-worker", "1 GiB"),
            "frames per second above 0": ("--frame", "9x9", "--per-worker", "1 GiB", "--rate", "0"),
            "900 GiB: expected 0 to the whole memory": ("--frame", "9x9", "--per-worker", "900 GiB"),
        }
        for sentence, words in cases.items():
            with self.subTest(sentence):
                done = normant("memory", "plan", SURVEY, *words)
                self.assertEqual((done.exit_code, sentence in done.stderr), (2, True), done.stderr)

    def test_routes_of_every_codec_that_a_gpu_lists(self) -> None:
        lines = normant("routes", SURVEY).stdout.splitlines()
        self.assertEqual(lines[-1], "pan-03: hevc/10/422 decoded by gpu1: gpu0 does not list it")
        asked = normant("routes", SURVEY, "--codec", "ffv1/10/422", "--format", "json")
        self.assertEqual(json.loads(asked.stdout)["device"], "cpu")
        self.assertEqual(normant("routes", SURVEY / "none").exit_code, 2)


class Place(TestCase):
    """`normant place`."""

    def test_stores_have_a_volume_each_and_moves_their_order(self) -> None:
        answer = normant("place", SURVEY, "--format", "json")
        made = json.loads(answer.stdout)
        self.assertEqual(
            (answer.exit_code, made["volumes"], made["violations"]), (0, {"Corrow source_cache": "v1"}, [])
        )
        (move,) = made["moves"]
        self.assertEqual((move["source"], move["target"], move["size"]), ("v0", "v1", made["bytes_moved"]))
        self.assertEqual(move["free"]["v0"], 129_000_000_000)
        self.assertIn("88,000,000,000 bytes", normant("place", SURVEY).stdout)

    def test_what_cannot_be_placed_ends_with_one_and_bad_files_with_two(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            stores = Path(folder, "stores.toml")
            stores.write_text('[[store]]\npurpose = "exports"\nneed = "90 TB"\n', "utf-8")
            answer = normant("place", SURVEY, "--stores", stores, "--format", "json")
            self.assertEqual(answer.exit_code, 1)
            self.assertIn("no suitable volume has enough space", json.loads(answer.stdout)["impossible"])
            stores.write_bytes(b"\xff")
            self.assertEqual(normant("place", SURVEY, "--stores", stores).exit_code, 2)
            self.assertEqual(normant("place", stores).exit_code, 2)
