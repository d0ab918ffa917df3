"""What is said when a job is opened."""

from __future__ import annotations

from nimble_cradle.job.open_job import OpenJob


def opening_words(place: OpenJob) -> str:
    """What there is to say of a job when it is opened to be worked on."""
    out = []
    if place.told:
        out.append(f"{place.told[0].upper()}{place.told[1:]}.")
    if place.recovered:
        s = "s" if place.recovered > 1 else ""
        out.append(
            f"{place.recovered} edit{s} from last time had not been saved;"
            f" {'they are' if s else 'it is'} here again."
        )
    if place.dropped:
        more = f" and {len(place.dropped) - 3} more" if len(place.dropped) > 3 else ""
        out.append(f"Not brought back: {'; '.join(place.dropped[:3])}{more}.")
    return " ".join(out)
