"""What kinds of problem there are: stable names, which programs may rely on (docs/problems.md)."""

from enum import StrEnum


class ProblemType(StrEnum):
    """The last part of a problem's ``type`` (RFC 9457); its page is made from these words."""

    UNREADABLE = "unreadable"
    NOT_SIGNED_IN = "not-signed-in"
    NOT_ALLOWED = "not-allowed"
    NOT_FOUND = "not-found"
    METHOD = "method-not-allowed"
    TOO_SLOW = "too-slow"
    CONFLICT = "conflict"
    TOO_LARGE = "too-large"
    MEDIA_TYPE = "media-type"
    INVALID_VALUE = "invalid-value"
    TOO_MANY_REQUESTS = "too-many-requests"
    FAULT = "fault"
    UNAVAILABLE = "unavailable"
    NAME_TAKEN = "name-taken"
    EXISTS_ALREADY = "exists-already"
    LIMIT_REACHED = "limit-reached"
    IN_USE = "in-use"
    OUT_OF_USE = "out-of-use"
    YOKE_NEEDED = "yoke-needed"
    BEING_RECORDED = "being-recorded"
    CHANGED_MEANWHILE = "changed-meanwhile"
    PREFLIGHT = "preflight"
    DEVICE_UNFIT = "device-unfit"
    INPUT_UNFIT = "input-unfit"
    NOTHING_TO_DO = "nothing-to-do"
    NO_RESULT = "no-result"
    NOT_READY = "not-ready"
    OUT_OF_ORDER = "out-of-order"
    RECORDER_REFUSED = "recorder-refused"
    RECORDER_SILENT = "recorder-silent"
    STOP_NOT_CONFIRMED = "stop-not-confirmed"


MEANINGS: dict[ProblemType, str] = {
    ProblemType.UNREADABLE: "The request is no JSON in UTF-8.",
    ProblemType.NOT_SIGNED_IN: "Nobody is signed in with this session.",
    ProblemType.NOT_ALLOWED: "The person's role does not allow it, or the page is too old.",
    ProblemType.NOT_FOUND: "There is no such thing, or it was removed.",
    ProblemType.METHOD: "The address does not take this method.",
    ProblemType.TOO_SLOW: "The body of the request came too slowly.",
    ProblemType.CONFLICT: "It does not fit with what is stored.",
    ProblemType.TOO_LARGE: "The body of the request is too large.",
    ProblemType.MEDIA_TYPE: "The body of the request is of a kind that is not read there.",
    ProblemType.INVALID_VALUE: "The value of `field` is out of bounds, missing or unknown.",
    ProblemType.TOO_MANY_REQUESTS: "Too many requests, or too many wrong passwords.",
    ProblemType.FAULT: "A fault of the server; its log says more.",
    ProblemType.UNAVAILABLE: "The database or the server is busy or away; try again shortly.",
    ProblemType.NAME_TAKEN: "Something has this name, or one that reads like it.",
    ProblemType.EXISTS_ALREADY: "It is there already.",
    ProblemType.LIMIT_REACHED: "There are as many as there may be.",
    ProblemType.IN_USE: "Something else uses it, so that it cannot be changed or removed.",
    ProblemType.OUT_OF_USE: "It was archived or taken out of use.",
    ProblemType.YOKE_NEEDED: "Only the holder of the bench's yoke may do it.",
    ProblemType.BEING_RECORDED: "A run that it concerns is being recorded.",
    ProblemType.CHANGED_MEANWHILE: "Somebody changed it since it was read.",
    ProblemType.PREFLIGHT: "Something keeps a run from starting; `field` is the issue's code.",
    ProblemType.DEVICE_UNFIT: "No device can do it, or this one cannot.",
    ProblemType.INPUT_UNFIT: "The input does not measure what the sensor gives, or is not there.",
    ProblemType.NOTHING_TO_DO: "There is nothing that it could be done to.",
    ProblemType.NO_RESULT: "The run gives no such result.",
    ProblemType.NOT_READY: "It is being computed; it can be had in a while.",
    ProblemType.OUT_OF_ORDER: "A part of a file, or a step, comes before what must come first.",
    ProblemType.RECORDER_REFUSED: "The recorder refused the order; the title says why.",
    ProblemType.RECORDER_SILENT: "The recorder did not answer in time; the order is given up.",
    ProblemType.STOP_NOT_CONFIRMED: "Nobody confirmed the stop, which stays in force.",
}
OF_STATUS: dict[int, ProblemType] = {
    400: ProblemType.UNREADABLE,
    401: ProblemType.NOT_SIGNED_IN,
    403: ProblemType.NOT_ALLOWED,
    404: ProblemType.NOT_FOUND,
    405: ProblemType.METHOD,
    408: ProblemType.TOO_SLOW,
    409: ProblemType.CONFLICT,
    413: ProblemType.TOO_LARGE,
    415: ProblemType.MEDIA_TYPE,
    422: ProblemType.INVALID_VALUE,
    429: ProblemType.TOO_MANY_REQUESTS,
    500: ProblemType.FAULT,
    503: ProblemType.UNAVAILABLE,
}
