"""The search for a fault: what readings leave of every fault this build can have, and what to do next to know most soonest."""

from yardmeter.core.search.beliefs import Belief, Suspect, believe
from yardmeter.core.search.next_best import Advice, Option, advise
from yardmeter.core.search.seen import Seen, seen_of
from yardmeter.core.search.signatures import Signatures
from yardmeter.core.search.trials import Trial, find_trial

__all__ = [
    "Advice",
    "Belief",
    "Option",
    "Seen",
    "Signatures",
    "Suspect",
    "Trial",
    "advise",
    "believe",
    "find_trial",
    "seen_of",
]
