"""What goes home: numbers as they were told, plain words, one to three sheets, nothing from elsewhere."""

from __future__ import annotations

import base64
import datetime
import io
import re
import shutil
from dataclasses import replace
from html.parser import HTMLParser
from importlib.resources import files

import msgspec
import numpy as np
import pypdf
import pytest
from fontTools.ttLib import TTFont
from hypothesis import given
from hypothesis import strategies as st
from pdfminer.high_level import extract_text

from kneel.book import open_book
from kneel.book.repository import lessons, students
from kneel.cli.main import main
from kneel.documents.swing_file import SUFFIX, load_swing, save_swing
from kneel.evidence.kept import kept_swing
from kneel.footage import Clip, picture_of
from kneel.handout.clip import RATE, SLOWER, drawn_on, frames_of, stops_of
from kneel.handout.content import Small, _wanted
from kneel.handout.making import Home, finding_for, known_of, make_content
from kneel.handout.page import CHART, FONTS, _subset, chart, drawn, html_of, label, pdf_of, ready
from kneel.handout.stills import HIGH_PX, WIDE_PX, framed, stills_of
from kneel.handout.weeks import weeks_of
from kneel.judge import judge
from kneel.judge.knowledge import shipped
from kneel.judge.numbers import OfSwing
from kneel.model import Hand, UsageError, View
from kneel.motion.drawn import Shaped, shape_of
from kneel.motion.example import example
from kneel.motion.measures import REGISTRY
from kneel.motion.measures.lines import words_at
from kneel.practice import PracticeDays, Wish, known_drills, plan_of, propose
from kneel.speech.home import FORBIDDEN, plain, trade_words
from kneel.speech.moments import moment_words
from kneel.speech.practice import cautions, measure_words
from tests.filed import DEMO, filed_in

TODAY = datetime.date(2026, 11, 5)
A4 = (210, 297)


def lesson(tmp_path, name, day="2026-11-03"):
    folder = tmp_path / day
    folder.mkdir(exist_ok=True)
    for path in (DEMO / day).glob(f"{name}.*"):
        shutil.copy(path, folder)
    return folder / f"{name}{SUFFIX}"


def home_of(document):
    kept = kept_swing(document)
    reading = judge(kept.study, shipped().school(kept.swing.school), kept.swing)
    day = datetime.date.fromisoformat(document.parent.name)
    return Home(kept.swing, kept.study, reading, kept.stretch.path, day)


def with_plan(book, home):
    """A plan for what the swing shows, begun the day after, as the Book would hold it."""
    numbers = OfSwing(home.study, home.swing.club)
    with book.writing() as db:
        student, revision = students.named(db, home.swing.golfer)
        proposal = propose(home.reading, Wish.of(student, home.swing.club), known_drills())
        plan = plan_of(proposal, numbers, PracticeDays(TODAY), school=home.swing.school)
        students.save(db, msgspec.structs.replace(student, plans=(plan,)), revision)
    return plan


@pytest.fixture
def maren(tmp_path):
    """Maren's two lessons in a Book, and a plan."""
    book = open_book(str(tmp_path / "book" / "book.sqlite"))
    _, document = filed_in(book, tmp_path, ("2026-08-04", "2026-11-03"))
    home = home_of(document)
    with_plan(book, home)
    found = known_of(book, home)
    book.close()
    return found


class Outside(HTMLParser):
    """Every address that a page names."""

    def __init__(self):
        super().__init__()
        self.found = []

    def handle_starttag(self, tag, attrs):
        self.found += [v for k, v in attrs if k in ("src", "href", "xlink:href", "data") and v]
        assert tag not in ("script", "iframe", "object", "embed", "form", "link")


def test_the_page_says_what_was_told_in_every_form(maren):
    """Numbers of the PDF, as two readers of PDF see them, and of the HTML are those of the study."""
    content = make_content(maren, academy="Saltmarsh Links", note="Slowly, Maren.", today=TODAY)
    html = html_of(content)
    pdf = pdf_of(html)
    finding = finding_for(maren)
    pages = pypdf.PdfReader(io.BytesIO(pdf)).pages
    assert 1 <= len(pages) <= 3
    assert (
        round(float(pages[0].mediabox.width) * 25.4 / 72),
        round(float(pages[0].mediabox.height) * 25.4 / 72),
    ) == A4
    first = " ".join(" ".join(page.extract_text() for page in pages).split())
    second = " ".join(extract_text(io.BytesIO(pdf)).split())
    third = " ".join(re.sub(r"<[^>]*>", " ", html.split("</style>")[1]).split())
    size = f"{abs(finding.value):.1f} cm"
    error = f"± {finding.sigma:.1f} cm"
    then = f"{abs(maren.trend.line[0].value):.1f} cm"
    top = maren.study.at(finding.measure, "impact").value
    for text in (first, second, third):
        for words in (size, error, then, f"{abs(top):.1f} cm", "Saltmarsh Links", "Slowly, Maren."):
            assert words in text
        assert "3 November 2026" in text and "licensed medical professional" in text
        assert "too near to be told apart" in text, "two swings claim no change of the student"
        assert trade_words(text.replace("Kneel", "")) == []
        for step in content.steps:
            assert step in text
    check_in = maren.student.plan.check_in
    assert f"{check_in.day} {check_in:%B}" in first and first.count("15 min") >= 6


def test_a_page_holds_only_the_very_number_against_earlier_ones(maren):
    """The trend of that measure at another checkpoint is another number."""
    trend = maren.trend
    assert trend is not None and make_content(maren).small is not None
    elsewhere = replace(maren, trend=replace(trend, at="impact" if trend.at != "impact" else "top"))
    assert make_content(elsewhere).small is None


def test_the_html_needs_no_other_file(maren):
    outside = Outside()
    html = html_of(make_content(maren, today=TODAY))
    outside.feed(html)
    assert len(outside.found) == 3 and all(one.startswith("data:image/jpeg") for one in outside.found)
    assert all(one.startswith("data:") for one in re.findall(r"url\(\"([^)]*?)\"\)", html))
    assert "http" not in html.replace("http://www.w3.org/2000/svg", "")
    assert len(html) < 1_500_000


def test_type_is_cut_anew_only_for_names_that_need_more(maren):
    """All pages in English share what :func:`ready` has cut; a name finds all its letters all the same."""

    def letters(page):
        held = re.findall(r"data:font/woff2;base64,([^\"')]+)", page)
        return [set(TTFont(io.BytesIO(base64.b64decode(one))).getBestCmap()) for one in held]

    ready()
    cut = _subset.cache_info().misses
    pages = [html_of(make_content(maren))]
    assert _subset.cache_info().misses == cut
    named = maren.swing.given(golfer="Zoë Łuk", guessed=maren.swing.guessed)
    pages.append(html_of(make_content(replace(maren, swing=named), note="6\u00a0cm")))
    assert _subset.cache_info().misses == cut + len(FONTS)
    assert [len(set(map(ord, "ë\u00a0Ł")) & one) for page in pages for one in letters(page)] == [0, 0, 3, 3]
    assert all(set(map(ord, "Kneel ±°")) <= one for page in pages for one in letters(page))


def test_its_pictures_are_those_of_the_clip_as_it_lies_there_now(maren, monkeypatch):
    """They are not decoded again for another note; a clip that was written anew is seen as it is."""
    first = make_content(maren, note="Slowly.", today=TODAY)
    with monkeypatch.context() as patch:
        patch.setattr("kneel.handout.stills.picture_of", None)
        again = make_content(maren, note="Slower.", today=TODAY)
    pictures = [[one.still.pixels for one in page.shown] for page in (first, again)]
    assert len(pictures[0]) > 1 and all(map(np.array_equal, *pictures))
    shutil.copy(DEMO / "2026-11-03" / "idris-vale-iron.mp4", maren.clip)
    anew = [one.still.pixels for one in make_content(maren, today=TODAY).shown]
    assert not any(map(np.array_equal, anew, pictures[0]))
    with Clip(maren.clip) as clip:
        maren.clip.unlink()
        stills = stills_of(maren.study, clip, 0, "pelvis_shift", ("address", "top"))
    assert [one.pixels.shape for one in stills] == [(HIGH_PX, WIDE_PX, 3)] * 2


def test_names_and_notes_are_text_and_never_markup(maren):
    """A golfer called like a tag, and a page that would fetch a file: nothing of it is taken as such."""
    wicked = '<script>alert(1)</script><img src="file:///etc/passwd">'
    home = Home(
        maren.swing.given(golfer=wicked[:100]),
        maren.study,
        maren.reading,
        maren.clip,
        maren.day,
        maren.student,
    )
    html = html_of(make_content(home, note=wicked, academy=wicked, today=TODAY))
    outside = Outside()
    outside.feed(html)
    assert all(one.startswith("data:") for one in outside.found) and "<script>" not in html
    assert b"root:" not in pdf_of(html + '<img src="file:///etc/passwd">')


def test_the_page_is_read_in_grey(maren):
    """What argues is told by line, word and number: dark on light by more than 4.5 to 1 (WCAG 2.2)."""
    css = (files("kneel.handout") / "page.css").read_text()
    html = (files("kneel.handout") / "page.html").read_text()

    def light(colour):
        channels = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    def ratio(a, b):
        high, low = sorted((light(a), light(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    words = re.findall(r"color: (#\w{6})", css) + re.findall(r'<text[^>]*fill="(#\w{6})"', html)
    assert len(words) >= 4 and all(
        ratio(one, "#f1efe8") > 4.5 and ratio(one, "#ffffff") > 4.5 for one in words
    )
    assert ratio("#cfdcd2", "#1a2224") > 4.5, "what is wanted is written on its own ground"


@pytest.mark.parametrize("hand", list(Hand))
def test_no_word_of_the_trade_goes_home(hand):
    """Every fault, its sentences, its number; every drill with its cautions; for either hand."""
    knowledge = shipped()
    said = []
    for fault in knowledge.faults.values():
        assert fault.aim, fault.key
        said += [fault.aim, fault.good]
        for check in fault.check:
            said.append(check.says.format(size="1 cm", value="1 cm", checkpoint="the top"))
            said += [measure_words(check.measure, at) for at in check.at]
            said += [words_at(REGISTRY[check.measure], view, sign) for view in View for sign in (1.0, -1.0)]
        said += cautions(next(iter(known_drills().all.values())), fault, "")
    for drill in known_drills().all.values():
        said += [drill.title, *drill.steps, drill.feel, *cautions(drill, None, "")]
    wrong = [(words, plain(words, hand), trade_words(plain(words, hand))) for words in said]
    assert [one for one in wrong if one[2]] == []
    other = "right" if hand is Hand.LEFT else "left"
    assert plain("The lead knee", hand) == f"The {other} knee"


def test_the_forbidden_words_are_found():
    assert trade_words("The PELVIS of the lead side") == ["pelvis", "lead"]
    assert trade_words("This leads to the massage of addresses") == []
    assert len(set(FORBIDDEN)) == len(FORBIDDEN) > 25


def test_a_left_handed_golfer_reads_of_the_right_side(tmp_path):
    """The words, and the shape: the plumb stands where the hips' middle was at address."""
    home = home_of(lesson(tmp_path, "idris-vale-iron", "2026-08-04"))
    content = make_content(home, fault="hang_back", today=TODAY)
    assert content.name == "Idris Vale" and home.swing.hand is Hand.LEFT
    assert not any(trade_words(text) for text in content.texts)
    study = home.study
    address = study.checkpoints["address"].shown
    shape = shape_of(study, REGISTRY["pelvis_shift"], study.checkpoints["top"].shown, address)
    hips = np.mean([study.tracks[f"{side}_hip"].xy[address] for side in ("left", "right")], axis=0)
    assert shape.plumbs[0] == pytest.approx(tuple(hips), abs=0.5)
    still = content.shown[0].still
    with Clip(home.clip) as clip:
        frame = framed(study, (clip.upright.width, clip.upright.height))
    assert np.asarray(frame.at(tuple(hips)))[1] == pytest.approx(still.pixels.shape[0] * 0.6, rel=0.2)


def test_nothing_to_say_says_so(tmp_path):
    home = home_of(lesson(tmp_path, "idris-vale-iron"))
    with pytest.raises(UsageError, match="sure enough"):
        make_content(home)
    with pytest.raises(UsageError, match="no fault"):
        make_content(home, fault="yips")
    assert make_content(home, fault="sway", today=TODAY).aim == "Let the hips turn where they are."


def test_kneel_handout(tmp_path, capsys, monkeypatch):
    """All three outputs of one swing; the clip waits, is slow, and shows its line; no Book is made by it."""
    monkeypatch.setattr("kneel.handout.clip.SLOWER", 2.0)
    monkeypatch.setattr("kneel.handout.clip.WAITS_S", 0.9)
    document = lesson(tmp_path, "maren-tolhurst-iron")
    out = [tmp_path / name for name in ("m.pdf", "m.html", "m.mp4")]
    words = ["handout", str(document), "--pdf", str(out[0]), "--html", str(out[1]), "--clip", str(out[2])]
    assert main(words) == 0
    assert out[0].read_bytes().startswith(b"%PDF") and "Maren Tolhurst" in out[1].read_text()
    kept = kept_swing(document)
    with Clip(out[2]) as slow, Clip(document.with_name("maren-tolhurst-iron.mp4")) as clip:
        seconds = slow.info.frames / slow.info.rate_stored
        study = kept.study
        span = (
            study.times_s[study.checkpoints["impact"].shown]
            - study.times_s[study.checkpoints["address"].shown]
        )
        assert seconds == pytest.approx(2 * (span + 0.35) + 3 * 0.9, rel=0.1)
        same = [
            np.abs(picture(slow, k).astype(int) - picture(slow, k + 1)).mean()
            for k in range(0, slow.info.frames - 1, 7)
        ]
        assert sum(one < 0.35 for one in same) >= len(same) / 4, "it stands still at the checkpoints"
        middle = picture(slow, 20)
        clean = picture_of(clip.frame(study.checkpoints["address"].shown), clip.upright)
        x = round(
            float(
                np.mean(
                    [
                        study.tracks[f"{s}_hip"].xy[study.checkpoints["address"].shown, 0]
                        for s in ("left", "right")
                    ]
                )
            )
        )
        y = round(float(study.tracks["left_hip"].xy[study.checkpoints["address"].shown, 1])) - 30
        assert middle[y, x].min() > 180 > clean[y, x].mean(), "a light line where the hips were"
    assert not (tmp_path / "xdg_data_home" / "kneel" / "book.sqlite").exists()
    for asked, said in (
        (["handout", str(document)], "what to write"),
        (["handout", str(document), "--pdf", str(document)], "untouched"),
        (["handout", str(document), "--pdf", str(tmp_path / "x.pdf"), "--fault", "yips"], "no fault"),
    ):
        assert main(asked) == 2
        assert said in capsys.readouterr().err
    nobody = load_swing(document).given(golfer="")
    save_swing(document, nobody)
    assert main(["handout", str(document), "--html", str(out[1]), "--name", "Ebba Quill"]) == 0
    assert "Ebba Quill, 3 November 2026" in out[1].read_text()


def picture(clip, number):
    return picture_of(clip.frame(number), clip.upright)


def test_the_lesson_knows_what_was_worked_on(maren, tmp_path):
    book = open_book(str(tmp_path / "book" / "book.sqlite"))
    with book.reading() as db:
        days = [(one.day.isoformat(), one.root.fault) for one, _ in lessons.of_student(db, maren.student.id)]
    book.close()
    assert days == [("2026-11-03", "sway"), ("2026-08-04", "sway")]


def test_what_is_drawn_over_a_still_lies_where_it_belongs():
    """The distance wide, its words beside it on the side away from its line, and never off the picture."""
    nothing = Shaped((200.0, 300.0))
    right, left = (replace(nothing, gap=((200.0, 300.0), (x, 300.0))) for x in (260.0, 140.0))
    words = "8.1 cm"
    assert (
        label(right, words)["x"] == 260 + 14
        and label(left, words)["x"] + label(left, words)["wide"] == 140 - 14
    )
    for shape, said in ((None, words), (nothing, words), (right, "")):
        assert label(shape, said) is None
    for x in (0.0, 5.0, WIDE_PX - 1.0):
        tag = label(replace(nothing, gap=((200.0, 300.0), (x, 300.0))), words)
        assert 4 <= tag["x"] <= WIDE_PX - tag["wide"] - 4 and tag["words"] == words
    assert drawn(None) == drawn(nothing) == []
    (line,) = drawn(right)
    assert (line["a"], line["b"], line["dash"]) == ((200.0, 300.0), (260.0, 300.0), "none")
    between = (((1.0, 2.0), (3.0, 4.0)),)
    firm, faint = (drawn(replace(nothing, **{name: between})) for name in ("firm", "faint"))
    assert firm[0]["wide"] > faint[0]["wide"] < line["wide"] and faint[0]["dash"] != "none"
    far = label(replace(nothing, gap=((200.0, 300.0), (WIDE_PX - 1.0, 300.0))), words)
    assert far["x"] == WIDE_PX - far["wide"] - 4 and far["y"] == 283.0
    (plumb,) = drawn(replace(nothing, plumbs=((50.0, 90.0),)))
    assert plumb["a"][0] == plumb["b"][0] == 50.0 and plumb["a"][1] < 300.0 < plumb["b"][1] < HIGH_PX


@given(
    st.lists(st.floats(-30, 30), min_size=2, max_size=4),
    st.one_of(st.none(), st.floats(-20, 20)),
    st.one_of(st.none(), st.floats(-20, 20)),
)
def test_the_small_picture_keeps_order_and_distance(values, low, high):
    """Points from left to right, each as high as it is large; the wanted band where its edges are."""
    if low is not None and high is not None and low > high:
        low, high = high, low
    points = tuple((f"{k} Nov", value) for k, value in enumerate(values))
    made = chart(Small("Pelvis shift, cm", points, low, high, "cm"))
    width, height = CHART
    assert (made["width"], made["height"]) == (width, height) == (336.0, 150.0)
    xs, ys = ([point[k] for point in made["points"]] for k in "xy")
    assert xs[0] == 45.0 and xs[-1] == pytest.approx(width - 45.0) and np.ptp(np.diff(xs)) < 1e-9
    assert min(ys) >= 34 - 1e-9 and max(ys) <= height - 30 + 1e-9
    if max(values) - min(values) > 1e-3:
        slope, start = np.polyfit(values, ys, 1)
        assert slope < 0 and np.allclose(np.polyval((slope, start), values), ys, atol=1e-6)
        for edge, at in ((high, "top"), (low, "bottom")):
            if made["band"] and edge is not None:
                there = made["band"]["top"] + (made["band"]["high"] if at == "bottom" else 0.0)
                whole = slope * edge + start
                assert there == pytest.approx(whole, abs=1e-6) or not 34 < whole < height - 30
    assert (made["band"] is None) == (low is None and high is None)


def test_the_slow_clip_waits_where_it_argues_and_is_six_times_slower(maren):
    """Every frame in its order and time; at each stop the frame itself, with its words, for 2.2 s."""
    study, hand = maren.study, maren.swing.hand
    finding = finding_for(maren)
    stops = stops_of(finding, study, ("impact", "address", "top", "delivery"), hand)
    names = [name for name in ("address", "top", "impact") if name in study.checkpoints]
    assert [stop.frame for stop in stops] == [study.checkpoints[name].shown for name in names]
    assert stops[0].words == "Set-up" and "cm" in stops[1].words
    fine = replace(study, times_s=np.arange(len(study.times_s)) / (RATE * SLOWER))
    for timed, per_frame in ((study, RATE * SLOWER / 120.0), (fine, 1.0)):
        order = frames_of(timed, stops[0].frame - 2, stops[-1].frame + 9, stops)
        shown = [frame for frame, words in order if not words]
        assert np.all(np.diff([frame for frame, _ in order]) >= 0) and shown[0] == stops[0].frame - 2
        assert len(shown) == pytest.approx(per_frame * (stops[-1].frame + 12 - stops[0].frame), abs=6)
        assert shown == sorted({*range(shown[0], shown[-1] + 1)} - {s.frame for s in stops}) or per_frame > 1
        for stop in stops:
            assert sum(one == (stop.frame, stop.words) for one in order) == round(2.2 * 30)


def test_a_frame_of_the_slow_clip_has_line_distance_and_words(maren):
    """Light lines on dark where the shape is, words on a band at the foot, in as many lines as they need."""
    grey = np.full((360, 640, 3), 120, np.uint8)
    shape = Shaped((300.0, 200.0), plumbs=((320.0, 90.0),), gap=((320.0, 200.0), (280.0, 200.0)))
    made = drawn_on(grey.copy(), shape, 0.5, 150.0, "", big=False)
    changed = np.argwhere((made != 120).any(axis=2))
    assert changed[:, 1].min() >= 140 - 4 and changed[:, 1].max() <= 160 + 4 and changed[:, 0].max() <= 153
    assert made[145, 160].min() > 200 and made[20, 160].min() > 200, "the plumb from the ground up"
    assert made[100, 150].min() > 200, "the distance"
    low, high = (
        drawn_on(grey.copy(), None, 1.0, None, words, big=big)
        for words, big in (("Top", False), ("Top: " + "your hips moved away " * 9, True))
    )
    bands = [np.flatnonzero((one != 120).any(axis=(1, 2)))[0] for one in (low, high)]
    assert bands[0] > 320 > bands[1] > 120 and (low[: bands[0]] == 120).all()
    assert (low[bands[0] :] < 60).all(axis=2).mean() > 0.5


def test_which_way_a_number_lies_is_said_once():
    study = example()
    reading = judge(study, shipped().schools["centred"])
    told = {key: moment_words(reading.of(key), study, "top", Hand.LEFT) for key in ("sway", "reverse_pivot")}
    assert told["sway"] == "hips from the start line: 6.1 cm away from the target"
    assert told["reverse_pivot"] == "leaning to the target: 7°"


def test_what_is_wanted_and_when_to_practise(maren):
    """The limit in words without a sign; the weeks from this Monday on, each day once."""
    finding = finding_for(maren)
    told = finding.decided.told
    edge = finding.decided.limits.lo
    assert told.value < edge < 0 and _wanted(finding).startswith("Wanted is no more than ")

    def with_value(value):
        return _wanted(replace(finding, decided=replace(finding.decided, told=replace(told, value=value))))

    assert with_value(edge / 2).startswith("Wanted is at least ")
    assert with_value(2.0).endswith(" the other way.")
    weeks = weeks_of(maren.student.plan, TODAY)
    days = [cell.day for week in weeks for cell in week]
    monday = TODAY - datetime.timedelta(TODAY.weekday())
    assert days == [
        f"{(monday + datetime.timedelta(k)):%a}"[:2] + f" {(monday + datetime.timedelta(k)).day}"
        for k in range(7 * len(weeks))
    ]
    assert sum(cell.film for week in weeks for cell in week) >= 1
    practised = [cell.words for week in weeks for cell in week if cell.words.endswith("min")]
    assert len(practised) > 4 and {*practised} == {f"{maren.student.plan.minutes} min"}
