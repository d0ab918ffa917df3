"""Plants one fault after another in a copy of the program and runs the tests that could see it. By hand,
never in CI:

python tests/long/faults.py [NUMBER ...]

It prints what was caught and what was not; a fault whose text is no longer in the program is told too.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parent.parent.parent
HAND = ("test_by_hand.py",)


@dataclass(frozen=True)
class Fault:
    """What is changed where, and which tests are asked."""

    what: str
    file: str
    old: str
    new: str
    tests: tuple[str, ...]


FAULTS = (
    Fault(
        "everyday factor for all cases",
        "findings/worst.py",
        'return allow.rare_factor if case.kind == "rare" else',
        "return",
        HAND,
    ),
    Fault(
        "rare factor for all cases",
        "findings/worst.py",
        'if case.kind == "rare" else allow.everyday_factor',
        "",
        HAND,
    ),
    Fault(
        "weld by the stronger steel",
        "families/tube_arm.py",
        "weaker = min((STEELS",
        "weaker = max((STEELS",
        HAND,
    ),
    Fault(
        "eye-weld spacing doubled",
        "families/eye.py",
        "return eye_of(mount.bush).outside_mm / 2",
        "return eye_of(mount.bush).outside_mm",
        HAND,
    ),
    Fault(
        "weld toe left out of the lever",
        "families/landing.py",
        "toe = 0.8 * math.sqrt(2) * weld_throat(mount) if more is None else more",
        "toe = 0.0 if more is None else more",
        HAND,
    ),
    Fault(
        "moments about the arm's end, not the bush",
        "families/arm_loads.py",
        "crosses(np.asarray(mount.bush.centre) - place, forces) @ axes)",
        "crosses(run.aim - place, forces) @ axes)",
        HAND,
    ),
    Fault("tightening against full proof", "strength/bolts.py", "MOST_PROOF = 0.9", "MOST_PROOF = 1.0", HAND),
    Fault(
        "rubber pressure factored",
        "families/bush_use.py",
        "np.array([case.radial_force for case in cases.rows])",
        "np.array([case.radial_force for case in cases.rows]) * cases.factors",
        HAND,
    ),
    Fault(
        "sag from rare cases",
        "mounts/crossmember_checks.py",
        'for row in under if row[0].kind != "rare"',
        "for row in under",
        HAND,
    ),
    Fault(
        "crossmember's governing case without its factor",
        "mounts/crossmember_checks.py",
        "key=lambda row: row[1] * factor_of(row[0], allow)",
        "key=lambda row: row[1]",
        ("test_true.py",),
    ),
    Fault(
        "crossmember stress without its factor",
        "strength/beam.py",
        "return stress * factor / yield_mpa, yield_mpa / factor",
        "return stress / yield_mpa, yield_mpa / factor",
        HAND,
    ),
    Fault(
        "dynamic ratio ignored",
        "mounts/vibration.py",
        "damped = spring.dynamic_ratio * (1 + 1j * spring.loss_factor)",
        "damped = 1 + 1j * spring.loss_factor",
        ("test_true.py",),
    ),
    Fault(
        "a low sump ignored",
        "judge/found.py",
        "or (self.lowest is not None and self.lowest.above_line < 0)",
        "",
        ("test_true.py",),
    ),
    Fault(
        "edge rule 0.2",
        "strength/bolts.py",
        "LEAST_EDGE, LEAST_PITCH = 1.2, 2.2",
        "LEAST_EDGE, LEAST_PITCH = 0.2, 2.2",
        HAND,
    ),
    Fault(
        "slip with the whole clamp",
        "mounts/plate_checks.py",
        "FRICTION * (LOW_CLAMP * clamp - pull / n)",
        "FRICTION * (clamp - pull / n)",
        HAND,
    ),
    Fault(
        "slip without the moment in the plane",
        "strength/bolts.py",
        "shear = weight[:, None] * (force[:, None, :2] / len(p) + turned)",
        "shear = weight[:, None] * (force[:, None, :2] / len(p) + 0 * turned)",
        HAND,
    ),
    Fault(
        "moment about v with the wrong sign",
        "strength/bolts.py",
        "about_v = moment[:, 1] + middle[0] * force[:, 2]",
        "about_v = moment[:, 1] - middle[0] * force[:, 2]",
        HAND,
    ),
    Fault(
        "bolt in shear by its shank",
        "strength/bolts.py",
        "c.shear_share * c.tensile * t.stress_area / GAMMA_M2",
        "c.shear_share * c.tensile * t.shank_area / GAMMA_M2",
        HAND,
    ),
    Fault(
        "yield lines at twice the thickness",
        "strength/plate.py",
        "strength = np.maximum(chord, 1e-6) * thickness**2 / 4 * yield_mpa",
        "strength = np.maximum(chord, 1e-6) * thickness**2 / 2 * yield_mpa",
        HAND,
    ),
    Fault(
        "holes not taken off the chord",
        "strength/plate.py",
        "chord = _chords(outline, n, c) - _holes_on(holes, np.asarray(hole_mm, dtype=float) / 2, n, c)",
        "chord = _chords(outline, n, c)",
        ("test_strength.py",),
    ),
    Fault(
        "yield lines do not see the arm's own moment",
        "strength/plate.py",
        "moment = np.where(none_here[None], external, by_bolts)",
        "moment = by_bolts",
        ("test_strength.py",),
    ),
    Fault(
        "eye wall without its bending",
        "families/tube_arm.py",
        "use = np.abs(end.force[:, 2]) / n + (in_plane / mi) ** 2 + np.abs(out) / mo",
        "use = np.abs(end.force[:, 2]) / n",
        HAND,
    ),
    Fault(
        "in the plane and out of it exchanged",
        "families/tube_arm.py",
        "in_plane, out = end.moment[:, 1], end.moment[:, 0]",
        "in_plane, out = end.moment[:, 0], end.moment[:, 1]",
        HAND,
    ),
    Fault(
        "throat as thick as one likes",
        "families/tube_arm.py",
        "effective_throat(arm.weld_throat_mm, arm.wall_mm, pad.plate_mm)",
        "arm.weld_throat_mm",
        ("test_true.py",),
    ),
    Fault(
        "slanted fillet counts all round",
        "strength/weld.py",
        "if slope_deg <= 90 - FUSED_LEAST:",
        "if slope_deg <= 90:",
        ("test_strength.py",),
    ),
    Fault(
        "sleeve always clamped",
        "strength/pin.py",
        "held = 2 * FRICTION * LOW_CLAMP * clamp >= load",
        "held = True",
        HAND,
    ),
    Fault(
        "strain of rare cases as every day's",
        "families/bush_use.py",
        '"rare": allow.bush_strain_rare}',
        '"rare": allow.bush_strain}',
        HAND,
    ),
    Fault("axial movement of the middle of the engine", "judge/carried.py", "load.axial_mm,", "0.0,", HAND),
    Fault(
        "reverse as first gear",
        "mounts/cases.py",
        "-reaction * drive.reverse_nm",
        "-reaction * drive.first_nm",
        HAND,
    ),
    Fault(
        "load transfer the same in reverse",
        "mounts/cases.py",
        '* (1.0 if way == "forward" else -1.0)',
        "",
        HAND,
    ),
    Fault(
        "height without the engine",
        "mounts/cases.py",
        "cog_height=height_mm",
        "cog_height=v.cog_height_mm",
        HAND,
    ),
    Fault("no acceleration in first gear", "mounts/cases.py", "-drive.first_g * ahead", "0.0 * ahead", HAND),
    Fault("no rough road upwards", "mounts/cases.py", '("up", 1.0 - rough_g)', '("up", 1.0)', HAND),
    Fault(
        "snatch as steady first gear",
        "mounts/cases.py",
        "return self.loads.snatch_factor * self.first",
        "return self.first",
        HAND,
    ),
    Fault(
        "both ends of the crossmember nailed",
        "strength/beam.py",
        "held[-1] = (True, False, True,",
        "held[-1] = (True, True, True,",
        HAND,
    ),
    Fault(
        "shear up and across exchanged",
        "strength/beam.py",
        "order = [0, 2, 1, 3, 5, 4]",
        "order = [0, 1, 2, 3, 5, 4]",
        HAND,
    ),
    Fault(
        "plates mirrored",
        "shop/plate_template.py",
        "Circle((float(hole[0]), float(hole[1])), float(d) / 2),",
        "Circle((-float(hole[0]), float(hole[1])), float(d) / 2),",
        ("test_from_outside.py",),
    ),
    Fault(
        "adapter unmirrored",
        "survey/adapter.py",
        "mirrored(_from_pin(by_id[a.gearbox]))",
        "_from_pin(by_id[a.gearbox])",
        ("test_from_outside.py",),
    ),
    Fault(
        "a mount without a finding may hold",
        "judge/load_path.py",
        ' yet.",) if missing else ()',
        ' yet.",) if False else ()',
        ("test_true.py",),
    ),
    Fault(
        "a foot's moment without its height",
        "families/foot_seat.py",
        "- [0.0, 0.0, lift]",
        "* [1.0, 1.0, 0.0]",
        ("test_chassis_side.py",),
    ),
    Fault(
        "cheeks clamped though nobody said so",
        "families/cheeks.py",
        "return self.mount.cross_bolt.tightening_nm is not None",
        "return True",
        ("test_chassis_side.py",),
    ),
    Fault(
        "rail's two moments swapped",
        "families/on_wall.py",
        "(moment[:, 1], moment[:, 0]) if turned else (moment[:, 0], moment[:, 1])",
        "(moment[:, 0], moment[:, 1]) if turned else (moment[:, 1], moment[:, 0])",
        ("test_chassis_side.py",),
    ),
    Fault(
        "force of the bush with the wrong sign at the foot",
        "families/foot_seat.py",
        "own = -np.asarray(forces) @ self.axes",
        "own = np.asarray(forces) @ self.axes * [1, -1, 1]",
        ("test_chassis_side.py",),
    ),
    Fault(
        "a weld on one side as good as two",
        "strength/cheek.py",
        'over / (thick + throat) if sides == "both" else 6 * over / throat',
        "over / (thick + throat)",
        ("test_chassis_side.py",),
    ),
    Fault(
        "a wall that is not said is no question",
        "families/on_wall.py",
        'if host.section not in ("unsaid", "plate", "solid") and host.wall_mm is None:',
        "if False:",
        ("test_chassis_side.py",),
    ),
    Fault(
        "a bracket that never gives",
        "mounts/springs.py",
        "if not give.any():\n        return bush",
        "return bush\n    if not give.any():\n        return bush",
        ("test_by_hand.py", "test_bushes.py"),
    ),
    Fault(
        "a stop that is never met",
        "mounts/equilibrium.py",
        "out |= spring.law.met(own @ spring.axes)",
        "out |= False",
        ("test_bushes.py",),
    ),
    Fault(
        "the nearest metal holds every way",
        "mounts/captured.py",
        "mass_kg).max())",
        "mass_kg).min())",
        ("test_bushes.py",),
    ),
    Fault(
        "bolts bear more than they break at in a crash",
        "mounts/retention.py",
        "YIELDS.get(finding.code, 1.0)",
        "YIELDS.get(finding.code, 1.3)",
        ("test_retention.py",),
    ),
    Fault(
        "a crash that pushes without turning",
        "mounts/retention.py",
        "return np.array([(motion_at(arm) @ moved).T for arm in arms])",
        "return np.array([moved[:3].T for arm in arms])",
        ("test_retention.py",),
    ),
    Fault(
        "the chassis side let off in a crash",
        "mounts/mount_checks.py",
        "return near, borne_once(cases, far)",
        "return near, near",
        ("test_retention.py",),
    ),
    Fault(
        "an eye may stand in its plate after settling",
        "seat/windows.py",
        'if wish.made == "stays" and job.mounts:',
        "if False:",
        ("test_seat.py",),
    ),
    Fault(
        "a cut on the other side of the member",
        "bay/member.py",
        "return k, float(np.sign(dots[k]))",
        "return k, -float(np.sign(dots[k]))",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "twist told as if nothing could warp",
        "fit/opened_member.py",
        "return min(self.up, self.twist_free, self.twist_held)",
        "return min(self.up, self.twist_held)",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a cut that the frame does not know of",
        "fit/frame_parts.py",
        'state = cut.cut if when == "cut" else cut.at_last',
        "state = cut.before",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a lighter crossmember that was not put in the car",
        "design/lightest_crossmember.py",
        "out.append(_in_the_car(job, now, row))",
        "out.append(Candidate(row.name, row.section, row.steel, row.kg, row.uses, row.stops, True))",
        ("test_lightest.py",),
    ),
    Fault(
        "gaps of a held key as they were",
        "desk/stages/position/hand.py",
        "now = gaps_now(job, rows)",
        "now = gaps_now(self.session.seen_job, rows)",
        ("test_window.py",),
    ),
    Fault(
        "a torque strut acts without its gap",
        "mounts/struts.py",
        "if gap > 0 else Law",
        "if False else Law",
        ("test_rocking.py",),
    ),
    Fault(
        "what is not said is no question",
        "judge/verdict.py",
        "problems=_not_said(job), ",
        "",
        ("test_true.py",),
    ),
    Fault(
        "a bar arm's spacing without its thickness",
        "strength/flat_pair.py",
        "return self.apart + self.thick",
        "return self.apart",
        ("test_bar_arms.py",),
    ),
    Fault(
        "a bar's free length as if it had one batten more",
        "families/flats_arm.py",
        "free = long / (arm.battens + 1)",
        "free = long / (arm.battens + 2)",
        ("test_bar_arms.py",),
    ),
    Fault(
        "a box's weld by its inside",
        "families/boxed_arm.py",
        "all_round(arm.wide_mm, tall)",
        "all_round(arm.wide_mm - 2 * arm.wall_mm, tall)",
        ("test_bar_arms.py",),
    ),
    Fault(
        "bars drawn seen from the other side",
        "families/bar_arm.py",
        "np.column_stack([side, cross(run.way, side), run.way])",
        "np.column_stack([side, -cross(run.way, side), run.way])",
        ("test_bar_arms.py",),
    ),
    Fault(
        "arm's give left out",
        "mounts/give.py",
        "give = give + arm_give(mount, arm_run(mount, pose))",
        "arm_give(mount, arm_run(mount, pose))",
        ("test_bracket_give.py",),
    ),
    Fault(
        "welds of cheeks worn by forces with factors taken off twice",
        "mounts/fatigue_checks.py",
        "details = on.life(force)",
        "details = on.life(force / 2)",
        ("test_chassis_side.py",),
    ),
    Fault(
        "own case thrown the other way",
        "mounts/cases.py",
        "own.thrown_left_g * p.left",
        "-own.thrown_left_g * p.left",
        ("test_bushes.py",),
    ),
    Fault(
        "own case not counted for the welds",
        "mounts/fatigue_checks.py",
        "(*pairs, *own)",
        "(*pairs,)",
        ("test_bushes.py",),
    ),
    Fault(
        "a cradle's load without its lever",
        "mounts/cradles.py",
        "columns += [force, crosses(reach, force)]",
        "columns += [force, 0 * force]",
        ("test_cradle.py",),
    ),
    Fault(
        "a cradle that does not hold leaves its mounts held",
        "judge/load_path.py",
        "_state(rail_asked, [*far, *on_cradle, *ends, *as_beam])",
        "_state(rail_asked, [*far, *ends, *as_beam])",
        ("test_cradle.py",),
    ),
    Fault(
        "a cut plate judged by the edge it had",
        "job/mounts.py",
        "return max(min(self.edge_mm, left), 0.1)",
        "return self.edge_mm",
        ("test_engine_side.py",),
    ),
    Fault(
        "a spacer leaves the plate on the block",
        "job/mounts.py",
        "return self.spacer_mm + self.plate_mm",
        "return self.plate_mm",
        ("test_engine_side.py",),
    ),
    Fault(
        "gussets' welds turned a quarter",
        "families/tube_extras.py",
        "u, v = float(way @ side), float(way @ other)",
        "u, v = -float(way @ other), float(way @ side)",
        ("test_tube_extras.py",),
    ),
    Fault(
        "a scallop looked at at its near end alone",
        "families/tube_extra_checks.py",
        "in scallop_ends(mount, run, arm)]",
        "in scallop_ends(mount, run, arm)[:1]]",
        ("test_tube_extras.py",),
    ),
    Fault(
        "raised engine leaves its bushes",
        "design/raising.py",
        'after = with_value(after, f"mounts/{mount.id}/bush/centre", places[mount.id])',
        "pass",
        ("test_raising.py",),
    ),
    Fault(
        "cast halves pressed in without growing",
        "strength/cast.py",
        "together = 2 * half_long * larger",
        "together = 2 * half_long",
        ("test_bushes.py",),
    ),
    Fault(
        "everything called joined",
        "fit/joined.py",
        "    if one.owner != other.owner:\n        return False\n",
        "    if one.owner != other.owner:\n        return True\n",
        ("test_every_body.py",),
    ),
    Fault(
        "a part may lie deep in what it is welded to",
        "fit/joined.py",
        "SEAT = 3.0",
        "SEAT = 30.0",
        ("test_every_body.py",),
    ),
    Fault(
        "made parts not measured against the bay they stand in",
        "fit/made_gaps.py",
        "*_to_bay(job, car.rows, made, own)]",
        "]",
        ("test_every_body.py",),
    ),
    Fault(
        "brackets against the engine at rest alone",
        "fit/made_gaps.py",
        "fixed = through_cases(rest, made_to_engine(job), poses, [*pieces, made], car, rooms)",
        "fixed = made_to_engine(job)",
        ("test_true.py", "test_every_body.py"),
    ),
    Fault(
        "shafts at ride height alone",
        "fit/links.py",
        "        if high - low < 1e-9:\n            return self.bodies(pose, 0.0)\n",
        "        return self.bodies(pose, 0.0)\n",
        ("test_every_body.py",),
    ),
    Fault(
        "what a shaft keeps at least told too large",
        "fit/link_gaps.py",
        "        least = row.still - max(",
        "        least = row.still + max(",
        ("test_every_body.py",),
    ),
    Fault(
        "clashes of what is made not asked about",
        "judge/gaps.py",
        'return gap.stage != "position" and gap.margin < 0',
        "return False",
        ("test_every_body.py",),
    ),
    Fault(
        "the search blind to what is made",
        "seat/seating.py",
        'stays = made_sides(job).car if wish.made == "stays" else MadeBodies([])',
        "stays = MadeBodies([])",
        ("test_seat.py",),
    ),
    Fault(
        "a push not looked at where it stops",
        "seat/pushes.py",
        "    if go is push:\n",
        "    if go is slide:\n",
        ("test_seat.py",),
    ),
    Fault(
        "both sides of a car moved the same way across are called alike",
        "judge/suspension.py",
        "np.subtract(pivot.moved, (x, -y, z))",
        "np.subtract(pivot.moved, (x, y, z))",
        ("test_suspension.py",),
    ),
    Fault(
        "a wheel moved without its upright",
        "fit/suspension.py",
        'if key in after and key != "wheel":',
        'if key in after and key == "rod_outer":',
        ("test_suspension.py",),
    ),
    Fault(
        "toe of the right wheel told as the left one's",
        "fit/suspension.py",
        "toe = np.degrees(np.arctan2(-side * ahead",
        "toe = np.degrees(np.arctan2(-1.0 * ahead",
        ("test_suspension.py",),
    ),
    Fault(
        "a rod counted as engaged at one end alone",
        "strength/threaded_rod.py",
        "longest = body + 2 * (end - need)",
        "longest = body + 2 * end - need",
        ("test_suspension.py",),
    ),
    Fault(
        "an item that follows the wheel the other way up",
        "fit/part_travel.py",
        "steps = np.linspace(0.0, key,",
        "steps = np.linspace(0.0, -key,",
        ("test_suspension.py",),
    ),
    Fault(
        "lips bent to the wrong side",
        "geometry/folded.py",
        "radius + thick / 2, 1.0 if bend.up else -1.0",
        "radius + thick / 2, -1.0 if bend.up else 1.0",
        ("test_panels.py",),
    ),
    Fault(
        "a plate in a cut at the member's middle",
        "design/first_panel.py",
        "level = deep / 2 - opening.deep_mm",
        "level = deep / 2 - opening.deep_mm / 2",
        ("test_panels.py",),
    ),
    Fault(
        "a cut in the chassis not cut in the bay",
        "bay/cut_solids.py",
        "under = None if within is None else clipped(within, normal, offset)",
        "under = within",
        ("test_panels.py",),
    ),
    Fault(
        "a panel's flat is only looked at, not what it is put on",
        "judge/panels.py",
        'if item.material == "magnesium" or own != other:',
        'if item.material == "magnesium" and own != other:',
        ("test_panels.py",),
    ),
    Fault(
        "a cut line without its margin",
        "fit/cut_lines.py",
        "mm + margin + MORE",
        "mm + MORE",
        ("test_cut_lines.py",),
    ),
    Fault(
        "a cut line for the engine at rest alone",
        "judge/gaps.py",
        "return [pose_of(job.position), *(pose for _, pose in poses_of(job))]",
        "return [pose_of(job.position)]",
        ("test_cut_lines.py",),
    ),
    Fault(
        "an end plate's bolts loaded without their lever",
        "mounts/end_checks.py",
        "moment = moment + crosses(seat.node - seat.centre, force)",
        "moment = moment + 0.0 * crosses(seat.node - seat.centre, force)",
        ("test_end_plates.py",),
    ),
    Fault(
        "end plates without the factor of their case",
        "mounts/end_checks.py",
        "ends_under(cross, mount, -cases.forces)",
        "ends_under(cross, mount, -cases.forces / cases.factors[:, None])",
        ("test_end_plates.py",),
    ),
    Fault(
        "a mount holds though the crossmember's ends do not",
        "judge/load_path.py",
        "[*far, *on_cradle, *ends, *as_beam])",
        "[*far, *on_cradle, *as_beam])",
        ("test_end_plates.py",),
    ),
    Fault(
        "a mount holds on a rail that does not hold",
        "judge/load_path.py",
        "[*far, *on_cradle, *ends, *as_beam])",
        "[*far, *on_cradle, *ends])",
        ("test_rails.py",),
    ),
    Fault(
        "a mount holds though not all is known of the end plates",
        "judge/load_path.py",
        "if len(own_ends) < needed(job.crossmember.plates, seats):",
        "if len(own_ends) < 1:",
        ("test_end_plates.py",),
    ),
    Fault(
        "the crossmember drops out through the engine",
        "seat/drop_out.py",
        "for k, piece in enumerate(fitted_pieces(job))",
        "for k, piece in enumerate(fitted_pieces(job)[:1])",
        ("test_drop_out.py",),
    ),
    Fault(
        "a crack's plate as short as the crack",
        "judge/cracks.py",
        "body = crack.long_mm + 2 * (BEYOND + PAST)",
        "body = crack.long_mm",
        ("test_cracks.py",),
    ),
    Fault(
        "a brace that is bent for good is called enough",
        "design/bracing.py",
        'found.share >= ENOUGH and stress <= STEELS["S235"].yield_mpa',
        "found.share >= ENOUGH",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a way between two stations taken for a straight one",
        "geometry/least_through.py",
        "self.bent, self.gone = self.a.bent + self.b.bent, self.a.gone + self.b.gone",
        "self.bent, self.gone = self.a.bent * 0, self.a.gone + self.b.gone",
        ("test_courses.py",),
    ),
    Fault(
        "between two stations nothing is looked at",
        "geometry/least_through.py",
        "by_speed = (self.low[:, :-1] + self.low[:, 1:] - self.gone) / 2",
        "by_speed = (self.low[:, :-1] + self.low[:, 1:]) / 2",
        ("test_courses.py",),
    ),
    Fault(
        "what was measured kept at the wrong station",
        "geometry/least_through.py",
        "(c, t + (t > stretch)): d",
        "(c, t): d",
        ("test_courses.py", "test_made.py"),
    ),
    Fault(
        "a bar's reach without its ends' roundness",
        "fit/link_course.py",
        "across / 2 * np.sqrt(np.maximum(size - along**2, 0.0))",
        "across / 2 * np.maximum(size - along**2, 0.0)",
        ("test_every_body.py", "test_courses.py"),
    ),
    Fault(
        "a shaft beside what goes with its wheel at the wrong end of its travel",
        "fit/link_around.py",
        "mover.along(ends.stops, *over)",
        "mover.along(ends.stops, *over[::-1])",
        ("test_every_body.py", "test_suspension.py", "test_shafts.py"),
    ),
    Fault(
        "a floor of one case for another",
        "geometry/least_through.py",
        "self.low = np.maximum(self.low, self.floor[:, None])",
        "self.low = np.maximum(self.low, self.floor.max())",
        ("test_courses.py",),
    ),
    Fault(
        "bolts of two sizes share alike",
        "strength/bolts.py",
        "return np.asarray(area / area.mean())",
        "return np.ones(count)",
        ("test_engine_side.py",),
    ),
    Fault(
        "only the first sort of bolt is tightened",
        "mounts/plate_checks.py",
        "for bolt, _ in mount.pad.sorts), key",
        "for bolt, _ in mount.pad.sorts[:1]), key",
        ("test_engine_side.py",),
    ),
    Fault(
        "a rail pushed at its middle line though its mount stands beside it",
        "fit/frame_loads.py",
        "crosses(at - node, forces[key])",
        "0 * crosses(at - node, forces[key])",
        ("test_rails.py",),
    ),
    Fault(
        "a rail's twist left out",
        "strength/member_use.py",
        "np.abs(torsion) / math.sqrt(torsion_constant * area)",
        "0 * np.abs(torsion)",
        ("test_rails.py",),
    ),
    Fault(
        "a rail that does not carry its mount is no question",
        "judge/chassis.py",
        "return Verdict(findings=(*findings, *ties.findings), problems",
        "return Verdict(problems",
        ("test_rails.py",),
    ),
    Fault(
        "a rail where it is cut judged as it was",
        "fit/frame_parts.py",
        "metal = _left(metal, state)",
        "metal = bar.metal",
        ("test_rails.py",),
    ),
    Fault(
        "a fuel line beside a weld is no question",
        "judge/mounts.py",
        'guard.add(guard.rows("The heat of the welds", lambda: heat_questions(job, "mounts")))',
        "pass",
        ("test_heat.py",),
    ),
    Fault(
        "a push through a shaft",
        "seat/pushes.py",
        "for gap in (*exact_gaps(at_pose(seating, there), there), *_shafts(there)):",
        "for gap in exact_gaps(at_pose(seating, there), there):",
        ("test_seat.py",),
    ),
    Fault(
        "a tube's wall as strong as its steel is wide: chord strain forgotten",
        "strength/tube_joint.py",
        "less = min(1.0, 1.3 - 0.4 * min(chord.used, 1.0) / beta)",
        "less = 1.0",
        ("test_cradle_joints.py",),
    ),
    Fault(
        "the two walls of a branch swapped",
        "mounts/cradle_joints.py",
        "along, across_it = (b_high, b_wide) if runs_up else (b_wide, b_high)",
        "along, across_it = (b_wide, b_high) if runs_up else (b_high, b_wide)",
        ("test_cradle_joints.py",),
    ),
    Fault(
        "a joint of the cradle is asked of nobody",
        "mounts/cradles.py",
        "return (*CODES, JOINT) if has_joints(cradle) else CODES",
        "return CODES",
        ("test_cradle_joints.py", "test_cradle.py"),
    ),
    Fault(
        "an eye that is never punched",
        "strength/eye.py",
        "if arm > eye_outside - 2 * wall:",
        "if True:",
        HAND,
    ),
    Fault(
        "a kicked-up rail in two that do not meet",
        "fit/frame_parts.py",
        "whole.tie(one.line[1], other.line[0], one)",
        "pass",
        ("test_rails.py",),
    ),
    Fault(
        "a rail that warps from each splice anew",
        "fit/frame_loads.py",
        "return _Line(rail.bars, (0.0, 1.0, *ties), at)",
        "return _Line(rail.bars, (0.0, 1.0, *ties, *(begins[id(b)] / at for b in rail.bars)), at)",
        ("test_rails.py",),
    ),
    Fault(
        "one more member under the gearbox mount",
        "fit/chassis_frame.py",
        '"one more", "one more", ends, up,',
        '"one more", "", ends, up,',
        ("test_rails.py",),
    ),
    Fault(
        "a cut line without the margin",
        "fit/cut_surface.py",
        "reach = mm + margin + MORE",
        "reach = mm + MORE",
        ("test_cut_surface.py",),
    ),
    Fault(
        "a paper seen from behind",
        "fit/cut_surface.py",
        "((self.engine - c.mean(1)) * normals).sum()) < 0:",
        "((self.engine - c.mean(1)) * normals).sum()) > 0:",
        ("test_cut_surface.py",),
    ),
    Fault(
        "a mount that knows one piece of its rail alone",
        "judge/load_path.py",
        "pieces = same_rail(job).get(mount.foot.host, frozenset({mount.foot.host}))",
        "pieces = {mount.foot.host}",
        ("test_rails.py",),
    ),
    Fault(
        "an aluminium tie as stiff as steel",
        "fit/tie_panel.py",
        'return E_ALUMINIUM if self.panel.metal == "aluminium" else E_STEEL',
        "return E_STEEL",
        ("test_tie.py",),
    ),
    Fault(
        "a tie that was always there",
        "fit/frame_parts.py",
        'across = [bar for bar in across if when == "mended" or not bar.put_in]',
        "across = list(across)",
        ("test_tie.py",),
    ),
    Fault(
        "bolt heads that nobody sees",
        "judge/panel_duty.py",
        "hangs = tie.lowest - (0.0 if duty.countersunk else HEAD * thread(duty.bolt).diameter)",
        "hangs = tie.lowest",
        ("test_tie.py",),
    ),
    Fault(
        "a tie that does not hold is no question",
        "judge/chassis.py",
        "return Verdict(findings=(*findings, *ties.findings)",
        "return Verdict(findings=(*findings,)",
        ("test_tie.py",),
    ),
    Fault(
        "hardness taken for shape",
        "job/remember.py",
        '("hardness_shore_a", "hardness_irhd", "stiffness_radial", "stiffness_axial")',
        '("hardness_shore_a", "hardness_irhd", "eye_bore_mm", "stiffness_axial")',
        ("test_wiring.py",),
    ),
    Fault(
        "plates as they were where a search began",
        "seat/seating.py",
        "    plated = _with_plates_of(seating, job)",
        "    plated = seating",
        ("test_seat.py",),
    ),
    Fault(
        "a rod that gets longer as its rack goes",
        "geometry/linkage.py",
        "found = [long - np.linalg.norm(linkage.moving - linkage.fixed, axis=2)]",
        "found = [long - np.linalg.norm(linkage.moving - fixed, axis=2)]",
        ("test_steering.py",),
    ),
    Fault(
        "what goes with the steering only looked at straight ahead",
        "fit/travel.py",
        "        more = [at for at in self.ends if at > stops[-1]]",
        "        more: list[float] = []",
        ("test_steering.py",),
    ),
    Fault(
        "an outer joint looked at straight ahead",
        "fit/real_shaft.py",
        "return float(joint_angle(at - inner, faces).max())",
        "return float(joint_angle(at - inner, faces)[0])",
        ("test_steering.py",),
    ),
    Fault(
        "a dead point that nobody asks about",
        "judge/suspension.py",
        "        if not isinstance(lock, JobError):  # said already",
        "        if not isinstance(lock, JobError) and lock.after.whole and lock.moved:",
        ("test_steering.py",),
    ),
    Fault(
        "a hole told from the wrong edge",
        "fit/opened_member.py",
        "else size / 2 - opening.hole_at_mm",
        "else opening.hole_at_mm - size / 2",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a hole that leaves the wall behind it out",
        "strength/opened.py",
        "here < SAME and not (through and here < -SAME)",
        "here < SAME",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a mount over a hole that nobody asks about",
        "judge/mounts.py",
        "            out += _over_a_hole(job, mount, seat)",
        "",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a piece kept that is the other part",
        "bay/cut_solids.py",
        "kept = None if within is None else clipped(within, -normal, -offset)",
        "kept = None if within is None else clipped(within, normal, offset)",
        ("test_chassis_cut.py",),
    ),
    Fault(
        "a strut's bracket that nobody judges",
        "judge/mounts.py",
        "findings += bracket_checks(strut, seat, rows, job.allowables, job.loads)",
        "pass",
        ("test_strut_bracket.py",),
    ),
    Fault(
        "a strut's pull taken for a push along its bolt",
        "families/strut_stand.py",
        "            axis=strut.bolt_way,",
        "            axis=(strut.bolt_way[1], -strut.bolt_way[0], strut.bolt_way[2]),",
        ("test_strut_bracket.py",),
    ),
    Fault(
        "a strut's bracket left out of what is measured",
        "fit/made_bodies.py",
        'rod = part.owner.kind == "strut" and part.role == "rod"',
        'rod = part.owner.kind == "strut"',
        ("test_strut_bracket.py",),
    ),
    Fault(
        "an open bracket of a strut that keeps no mount open",
        "judge/load_path.py",
        'any(q.place.startswith(f"struts/{strut.id}/") for q in asked)',
        "False",
        ("test_strut_bracket.py",),
    ),
)


def main(wanted: set[int]) -> int:
    """Plant the wanted faults, all where none is named; 1 where one was not caught."""
    missed = []
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "copy"
        shutil.copytree(
            ROOT, copy, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", "*.egg-info")
        )
        env = {
            **os.environ,
            "PYTHONPATH": str(copy / "src"),
            "PYTHONDONTWRITEBYTECODE": "1",
            "NIMBLE_CRADLE_LONG": "1",
        }
        for number, fault in enumerate(FAULTS, 1):
            if wanted and number not in wanted:
                continue
            path = copy / "src" / "nimble_cradle" / fault.file
            whole = path.read_text()
            if whole.count(fault.old) < 1:
                print(f"{number:3} GONE    {fault.what}: its text is no longer in {fault.file}")
                missed.append(number)
                continue
            path.write_text(whole.replace(fault.old, fault.new, 1))
            tests = [str(copy / "tests" / t) for t in fault.tests]
            command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests]
            done = subprocess.run(command, cwd=copy, env=env, capture_output=True, text=True, check=False)
            path.write_text(whole)
            caught = done.returncode == 1
            seen = next((line for line in done.stdout.splitlines() if line.startswith("FAILED")), "")
            print(f"{number:3} {'caught' if caught else 'MISSED':7} {fault.what}  {seen[7:90]}", flush=True)
            if not caught:
                missed.append(number)
    asked = len(wanted) or len(FAULTS)
    print(f"{asked - len(missed)} of {asked} caught")
    return 1 if missed else 0


if __name__ == "__main__":
    raise SystemExit(main({int(a) for a in sys.argv[1:]}))
