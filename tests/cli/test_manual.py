"""The manual page names every word of the command line."""

from pathlib import Path

from nocturne.cli import parser, run


def test_every_word_is_in_the_manual():
    page = (Path(__file__).resolve().parents[2] / "docs" / "nocturne.1").read_text()
    words = next(action for action in parser()._actions if action.dest == "word").choices
    for word in words:
        assert f".B {word} " in page or f".B {word}\n" in page, word


def test_a_file_alone_is_opened(monkeypatch, tmp_path):
    opened = []
    monkeypatch.setattr("nocturne.cli.open.window", lambda path, **more: opened.append((path, more)) or 0)
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    (tmp_path / "a.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    assert run([str(tmp_path / "a.obj")]) == 0
    assert opened[0][1]["models"] == (tmp_path / "a.obj",)
    assert run(["rendr"]) == 2, "a word that is none is no file"
