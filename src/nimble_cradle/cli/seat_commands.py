"""Commands of the position: the seat, other powertrains in the bay, the way out, a section."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import UseError, json_text, new_file, written
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError


def add_seat_commands(rows: Any) -> None:
    """Add them to the command's own parsers."""
    _add_settle(rows)
    _add_candidates(rows)
    _add_way_out(rows)
    _add_section(rows)
    _add_cures(rows)


def _add_settle(rows: Any) -> None:
    seat = rows.add_parser(
        "settle", help="the best seat for the job's wish, what stops it, what each thing for sale would buy"
    )
    seat.add_argument("job", type=Path)
    seat.add_argument(
        "-o", "--out", type=Path, metavar="JOB", help="write the job in its new seat here (never over a file)"
    )
    seat.add_argument(
        "--trades", action="store_true", help="work out what each thing for sale buys (takes longer)"
    )
    seat.add_argument(
        "--made",
        choices=("stays", "comes-along"),
        help="whether mounts and crossmember stay or come along, instead of what the wish says",
    )
    seat.add_argument("--json", action="store_true")
    seat.set_defaults(run=_settle)


def _add_candidates(rows: Any) -> None:
    others = rows.add_parser("candidates", help="every powertrain offered to the bay, settled side by side")
    others.add_argument("job", type=Path)
    others.add_argument("--json", action="store_true")
    others.set_defaults(run=_candidates)


def _add_way_out(rows: Any) -> None:
    way = rows.add_parser(
        "way-out", help="whether the powertrain comes out again past its own mounts, and what is in the way"
    )
    way.add_argument("job", type=Path)
    way.add_argument(
        "--route", choices=("up", "down"), help="over the top or underneath, instead of what the job says"
    )
    way.add_argument("--seed", type=_whole, default=0, help="where to begin; next_seed of an answer looks on")
    way.add_argument(
        "--attempts", type=_whole, default=None, help="how many attempts, each of so many places looked at"
    )
    way.add_argument("--json", action="store_true")
    way.set_defaults(run=_way_out)


def _add_section(rows: Any) -> None:
    section = rows.add_parser("section", help="the bay cut open, as PDF or DXF (by the file's ending)")
    section.add_argument("job", type=Path)
    section.add_argument("-o", "--out", type=Path, required=True, metavar="FILE")
    where = section.add_mutually_exclusive_group()
    where.add_argument(
        "--across", type=float, metavar="MM", help="at a station before (+) or behind (-) the front axle line"
    )
    where.add_argument("--along", type=float, metavar="MM", help="left (+) or right (-) of the centre line")
    where.add_argument("--level", type=float, metavar="MM", help="above (+) or below (-) the datum")
    section.add_argument("--paper", choices=("A4", "Letter"), default="A4")
    section.set_defaults(run=_section)


def _add_cures(rows: Any) -> None:
    cures = rows.add_parser("cures", help="what would cure what lacks, and by how much: each is tried")
    cures.add_argument("job", type=Path)
    cures.add_argument(
        "--of",
        metavar="WHAT",
        default="",
        help="gap:PIECE/ITEM, finding:PART/CHECK, lowest, driveline, share or idle, instead of the worst",
    )
    cures.add_argument("--json", action="store_true")
    cures.set_defaults(run=_cures)


class _Teller:
    """Tells a person at a terminal what is being done, each thing once."""

    def __init__(self) -> None:
        self.said = ""

    def __call__(self, words: str) -> None:
        if words != self.said and sys.stderr.isatty():
            print(words, file=sys.stderr)
        self.said = words


def _settle(a: argparse.Namespace) -> int:
    from nimble_cradle.job.edits import with_value
    from nimble_cradle.seat.no_seat import why_no_seat
    from nimble_cradle.seat.seating import wish_of
    from nimble_cradle.seat.settle import settle
    from nimble_cradle.seat.stops import stops_of
    from nimble_cradle.seat.trades import trades
    from nimble_cradle.seat.words import settled_data, settled_text

    new_file(a.out, "a job file")
    opened = store.read(a.job)
    say = _Teller()
    job = opened.job
    if a.made:
        job = with_value(job, "wish", wish_of(job).model_copy(update={"made": a.made.replace("-", " ")}))
    found = settle(job, say)
    stops = stops_of(found) if found.ok else ()
    bought = trades(found, say) if a.trades else ()
    no_seat = None if found.ok else why_no_seat(found, say)
    print(
        json_text(settled_data(found, stops, bought, no_seat))
        if a.json
        else settled_text(found, stops, bought, no_seat)
    )
    if a.out is not None and found.ok:
        store.write(a.out, found.job, opened.log, opened.photos, fresh=True)
        print(f"Written: {a.out}", file=sys.stderr)
    return 0 if found.ok else 1


def _candidates(a: argparse.Namespace) -> int:
    from nimble_cradle.seat.candidates import offers
    from nimble_cradle.seat.offer_words import offers_data, offers_text

    job = store.read(a.job).job
    found = offers(job, _Teller())
    print(json_text(offers_data(found)) if a.json else offers_text(found, job.show.display))
    return 0 if any(not offer.refused for offer in found) else 1


def _cures(a: argparse.Namespace) -> int:
    from nimble_cradle.cures.cures import cures_of
    from nimble_cradle.cures.lack import Subject, looked_at, worst
    from nimble_cradle.judge.verdict import verdict

    job = store.read(a.job).job
    judged = verdict(job)
    kind, _, key = a.of.partition(":")
    subject = Subject(kind, key) if a.of else worst(job, judged)
    if subject is not None and subject.lack(job, judged) is None:
        raise UseError(f"nothing that is judged is called “{a.of[:60]}”")
    found = () if subject is None else cures_of(job, subject, _Teller())
    name = "" if subject is None else subject.name(judged)
    if a.json:
        rows = [{"what": c.what, "before": c.before, "after": c.after, "costs": c.costs} for c in found]
        print(json_text({"of": name, "cures": rows}))
    else:
        print(f"{name}:" if name else f"Nothing that is judged lacks. {looked_at(judged)}")
        print(
            "\n".join(f"  {cure.words}" for cure in found) or ("  no single change cures it" if name else "")
        )
    return 0 if found or subject is None else 1


def _whole(text: str) -> int:
    """A whole number that is not negative, as an argument."""
    if not text.isascii() or not text.isdigit() or len(text) > 9:
        raise argparse.ArgumentTypeError(f"a whole number is wanted, not “{text[:40]}”")
    return int(text)


def _way_out(a: argparse.Namespace) -> int:
    from nimble_cradle.job.edits import with_value
    from nimble_cradle.seat.removal import ATTEMPTS, find_removal
    from nimble_cradle.seat.words import removal_data, removal_text

    job = store.read(a.job).job
    if a.route is not None:
        job = with_value(job, "way_out/route", a.route)
    found = find_removal(job, _Teller(), a.seed, ATTEMPTS if a.attempts is None else max(a.attempts, 1))
    print(json_text(removal_data(found)) if a.json else removal_text(found))
    return 0 if found.moments else 1


def _section(a: argparse.Namespace) -> int:
    from nimble_cradle.fit.section import plane_at, plane_through, section, station_words
    from nimble_cradle.judge.verdict import verdict
    from nimble_cradle.shop.dxf import dxf
    from nimble_cradle.shop.section_sheet import section_drawing, section_pdf

    if a.out.suffix not in (".pdf", ".dxf"):
        raise UseError("a section is written as .pdf or .dxf: end the file's name so")
    job = store.read(a.job).job
    gaps = verdict(job).gaps
    which = next((w for w in ("across", "along", "level") if getattr(a, w) is not None), "")
    if which:
        plane, title = plane_at(which, getattr(a, which)), station_words(which, getattr(a, which))  # type: ignore[arg-type]
    elif gaps:
        plane, found = plane_through(gaps[0])
        title = f"through the tightest gap, {station_words(found, float(plane.origin @ plane.axes[:, 2]))}"
    else:
        raise JobError("There is no gap yet to cut through: say a station.", "section")
    cut = section(job, plane, title, gaps)
    data = (
        section_pdf(job, cut, a.paper) if a.out.suffix == ".pdf" else dxf(section_drawing(job, cut)).encode()
    )
    return written(a.out, data)
