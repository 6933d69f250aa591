"""What can be asked of the present picture. Adding a question touches this table and the place that asks.

The socket checks what is told with a question against its request, and the browser's types follow from both models.
"""

from . import building, dressing, hands, landing, light, light_plan, picture, planting, reference
from .asked import Answer, Asked, At, Nothing, Question

QUESTIONS: dict[str, Question] = {
    q.name: q
    for q in (
        Question("pick", At, building.Picked, building.pick),
        Question("meter", At, building.Picked, light.meter),
        Question("under", building.Below, building.Picked, building.under),
        Question("covered", Nothing, building.Covered, building.covered),
        Question("openings", Nothing, building.Openings, building.openings),
        Question("opening", building.Corners, building.OpeningMade, building.opening),
        Question("dress", dressing.OpeningNamed, dressing.Dressed, dressing.dress),
        Question("gain", Nothing, building.PortalGain, building.gain),
        Question("doubts", Nothing, building.FixtureDoubts, building.doubts),
        Question("leaks", Nothing, building.Leaks, building.leaks),
        Question("land", landing.Landing, landing.Landed, landing.land),
        Question("marks", Nothing, hands.Marks, hands.marks),
        Question("slide", hands.Slide, hands.Slid, hands.slide),
        Question("stand", hands.Standing, hands.Stood, hands.stand),
        Question("soil", planting.Brush, planting.Soil, planting.soil),
        Question("planted", Nothing, planting.Planted, planting.planted),
        Question("mirrored", planting.Mirrored, planting.Behind, planting.mirrored),
        Question("patch", hands.Grip, hands.Held, hands.patch),
        Question("neutral", At, light.White, light.neutral),
        Question("pattern", light.Patterns, light.PatternMap, light.pattern),
        Question("aim", light.Aiming, light.Aim, light.aim),
        Question("spread", light.Spreading, light.Spread, light.spread),
        Question(
            "light on plan",
            light_plan.LightWanted,
            light_plan.LightOnPlan,
            light_plan.light_on_plan,
        ),
        Question("balance", light.Wishes, light.Balance, light.balance),
        Question("beside", reference.Towards, reference.Beside, reference.beside),
        Question("nearer", reference.Towards, reference.Proposals, reference.nearer),
        Question("shadow", reference.Edge, reference.SunHeight, reference.shadow),
        Question("start", picture.Wanted, picture.StartingGrade, picture.start),
        Question("curve", Nothing, picture.StartingCurve, picture.curve),
        Question("estimate", picture.StillWanted, picture.Estimate, picture.estimate),
        Question("proof", Nothing, picture.PictureFiles, picture.proof, 20.0, inside=True),
    )
}

__all__ = ["QUESTIONS", "Answer", "Asked", "At", "Nothing", "Question"]
