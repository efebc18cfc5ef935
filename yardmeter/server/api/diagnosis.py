"""Diagnosis over HTTP: symptoms, what may be behind one, the story that is kept of it, exercises."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from pydantic import BaseModel, Field

from yardmeter.core.diagnosis.advice import Evidence
from yardmeter.core.parts import Part
from yardmeter.review.diagnosis import DiagnosisSeen, SymptomSeen
from yardmeter.server.api.schemas import Body, as_json
from yardmeter.server.builds.services import diagnosis
from yardmeter.server.shelf import services as shelf

router = Router(tags=["diagnosis"])


class SymptomsView(BaseModel):
    """`changed` are elements that the last step of the plan touched."""

    symptoms: tuple[SymptomSeen, ...]
    changed: tuple[str, ...]


@router.get("/{int:plan_id}/diagnosis/symptoms", response=SymptomsView)
def list_symptoms(request: HttpRequest, plan_id: int) -> HttpResponse:
    """Every symptom, and what it can be about in this plan."""
    return as_json(SymptomsView(symptoms=diagnosis.symptoms(plan_id), changed=diagnosis.changed_last(plan_id)))


class AnswerBody(Body):
    """What was found: yes or no, or a reading [V, A, Ω]; neither is a meter that shows open."""

    tried: str = Field(min_length=1, max_length=200)
    yes: bool | None = None
    value: float | None = Field(default=None, ge=-1e6, le=1e12)
    text: str = Field(default="", max_length=60, description="A reading as it is typed: 4.9, 120k, OL.")

    def evidence(self) -> Evidence:
        return Evidence(self.tried, self.yes, self.value)


class SymptomBody(Body):
    """`where` is the likeliest place when left out; `since` are elements that were changed last before it."""

    symptom: str = Field(min_length=1, max_length=60)
    where: str | None = Field(default=None, max_length=64)
    since: list[str] = Field(default_factory=list, max_length=20)
    evidence: list[AnswerBody] = Field(default_factory=list, max_length=40)

    def found(self) -> list[Evidence]:
        return [one.evidence() for one in self.evidence]


@router.post("/{int:plan_id}/diagnosis", response=DiagnosisSeen)
def look_into(request: HttpRequest, plan_id: int, body: SymptomBody) -> HttpResponse:
    """What may be behind it; nothing is written down."""
    return as_json(diagnosis.diagnosed(plan_id, body.symptom, body.where, body.since, body.found(), _parts()))


class StoryBody(SymptomBody):
    text: str = Field(default="", max_length=8000)
    who: str = Field(default="", max_length=80)


class StoryMade(BaseModel):
    id: int


@router.post("/{int:plan_id}/diagnosis/stories", response={201: StoryMade})
def begin_story(request: HttpRequest, plan_id: int, body: StoryBody) -> Status[StoryMade]:
    """Write the symptom into the log, to be looked into."""
    made = diagnosis.begin(plan_id, body.symptom, body.where, body.since, body.found(), body.text, body.who)
    return Status(201, StoryMade(id=made.pk))


class StoryView(BaseModel):
    """`before` and `after` are the symptom's chance by the plan's own numbers, then and now."""

    entry: int
    title: str
    text: str
    at: str
    state: Literal["open", "settled", "left"]
    diagnosis: DiagnosisSeen
    answered: tuple[str, ...]
    """What was tried, as it is taken back."""
    step: int
    head_step: int
    how: str
    gone: bool | None
    before: float
    after: float | None


def _parts() -> list[Part]:
    return shelf.parts_to_buy()


def _story(plan_id: int, entry: int) -> HttpResponse:
    one = diagnosis.story(plan_id, entry, _parts())
    return as_json(
        StoryView.model_validate(
            {
                "entry": one.entry, "title": one.title, "text": one.text, "at": one.at, "state": one.state, "diagnosis": one.seen,
                "answered": tuple(e.tried for e in one.evidence), "step": one.step, "head_step": one.head_step, "how": one.how,
                "gone": one.gone, "before": one.before, "after": one.after,
            }
        )
    )  # fmt: skip


@router.get("/{int:plan_id}/diagnosis/stories/{int:entry}", response=StoryView)
def show_story(request: HttpRequest, plan_id: int, entry: int) -> HttpResponse:
    return _story(plan_id, entry)


@router.post("/{int:plan_id}/diagnosis/stories/{int:entry}/answer", response=StoryView)
def answer_try(request: HttpRequest, plan_id: int, entry: int, body: AnswerBody) -> HttpResponse:
    """An answer written down, and what it moves."""
    diagnosis.answer(plan_id, entry, body.evidence(), body.text)
    return _story(plan_id, entry)


class TriedBody(Body):
    tried: str = Field(min_length=1, max_length=200)


@router.post("/{int:plan_id}/diagnosis/stories/{int:entry}/back", response=StoryView)
def take_answer_back(request: HttpRequest, plan_id: int, entry: int, body: TriedBody) -> HttpResponse:
    diagnosis.take_back(plan_id, entry, body.tried)
    return _story(plan_id, entry)


class SettleBody(Body):
    """`gone` is what was seen when it was tested again; left out, it is left for now."""

    how: str = Field(default="", max_length=2000)
    gone: bool | None = None


@router.post("/{int:plan_id}/diagnosis/stories/{int:entry}/settle", response=StoryView)
def settle_story(request: HttpRequest, plan_id: int, entry: int, body: SettleBody) -> HttpResponse:
    diagnosis.settle(plan_id, entry, body.how.strip(), gone=body.gone)
    return _story(plan_id, entry)


@router.post("/{int:plan_id}/diagnosis/stories/{int:entry}/anew", response=StoryView)
def weigh_story_anew(request: HttpRequest, plan_id: int, entry: int) -> HttpResponse:
    """The same answers, weighed on the plan as it is now."""
    diagnosis.weigh_anew(plan_id, entry)
    return _story(plan_id, entry)


class ExerciseBody(Body):
    seed: int = Field(ge=0, le=2**31)


class ExerciseView(BaseModel):
    seed: int
    symptom: str
    where: str
    title: str


@router.post("/{int:plan_id}/diagnosis/exercise", response=ExerciseView)
def begin_exercise(request: HttpRequest, plan_id: int, body: ExerciseBody) -> ExerciseView:
    """An electrical cause hidden in the plan, told by how it shows."""
    return ExerciseView.model_validate(vars(diagnosis.exercise(plan_id, body.seed)))


class ExerciseTryBody(ExerciseBody):
    tried: str = Field(min_length=1, max_length=200)


class ExerciseAnswer(BaseModel):
    tried: str
    yes: bool | None
    value: float | None
    words: str


@router.post("/{int:plan_id}/diagnosis/exercise/try", response=ExerciseAnswer)
def exercise_try(request: HttpRequest, plan_id: int, body: ExerciseTryBody) -> ExerciseAnswer:
    """What the craft with the hidden cause answers."""
    found, words = diagnosis.exercised(plan_id, body.seed, body.tried)
    return ExerciseAnswer(tried=found.tried, yes=found.yes, value=found.value, words=words)


class ExerciseNameBody(ExerciseBody):
    cause: str = Field(min_length=1, max_length=200)


class ExerciseMark(BaseModel):
    right: bool
    what: str
    best_tries: int
    best_minutes: float


@router.post("/{int:plan_id}/diagnosis/exercise/name", response=ExerciseMark)
def exercise_name(request: HttpRequest, plan_id: int, body: ExerciseNameBody) -> ExerciseMark:
    """Whether that was it."""
    return ExerciseMark.model_validate(vars(diagnosis.marked(plan_id, body.seed, body.cause)))
