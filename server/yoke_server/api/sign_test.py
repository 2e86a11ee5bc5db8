from django.http import HttpRequest
from ninja import Router

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id
from yoke_server.wire.sign import services
from yoke_server.wire.sign.schemas import SignTested

router = Router(tags=["wire"])


@router.post("/channels/{channel_id}/sign-test", response=SetupOut)
def keep_sign_test(request: HttpRequest, channel_id: Id, body: SignTested) -> SetupOut:
    """Which way a channel went when its part was loaded."""
    actor = Actor.of(request)
    test = services.keep_sign_test(actor, channel_id, **body.model_dump())
    return setup_out(test.setup_id)
