from ninja import Router
router = Router(tags=["intake"])
