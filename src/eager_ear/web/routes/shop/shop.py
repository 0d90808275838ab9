"""What the shop has settled, its price book, and what codes on displays mean."""

from __future__ import annotations

from fastapi import APIRouter

from eager_ear.store import UnitOfWork
from eager_ear.use_cases.shop.platform import settle_code
from eager_ear.use_cases.shop.shop import settle, shop_of
from eager_ear.use_cases.shop.stock import stock_of
from eager_ear.web.schemas.repairs.offering import ShopIn, ShopOut, ShownCodeIn, StockOut
from eager_ear.web.state import State

router = APIRouter(prefix="/api", tags=["shop"])


@router.get("/shop")
def shop(state: State) -> ShopOut:
    """What the shop has settled, why each number is what it is, what parts cost, and what codes mean."""
    repair = state.knowledge.repair
    with UnitOfWork(state.database) as work:
        return ShopOut.of(
            shop_of(work, repair=repair),
            work.shop.prices(),
            work.shop.codes(),
            sheets=work.sheets.names(),
            repair=repair,
        )


@router.put("/shop")
def settle_(body: ShopIn, state: State) -> ShopOut:
    """Change settings; those that are not named stay."""
    settle(state.database, body.settings, repair=state.knowledge.repair)
    return shop(state)


@router.get("/shop/stock")
def stock(state: State) -> StockOut:
    """Machines without a customer, each with its grade, and the used parts on the shelf."""
    with UnitOfWork(state.database) as work:
        return StockOut.of(stock_of(work, knowledge=state.knowledge), repair=state.knowledge.repair)


@router.put("/shop/codes")
def settle_code_(body: ShownCodeIn, state: State) -> ShopOut:
    """Say what a code on a display means, or take it out of the shop's table."""
    symptoms = tuple(state.knowledge.symptoms)
    settle_code(state.database, layout=body.layout, text=body.text, means=body.means, symptoms=symptoms)
    return shop(state)
