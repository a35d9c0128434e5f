"""Routes: the languages there are, what the pages say in them, and what one of them has no words for yet."""

from __future__ import annotations

from fastapi import APIRouter, Path, Request, Response

from jutrel.api.door import PROBLEMS, shop_of
from jutrel.api.wire import Out
from jutrel.core.wording import say
from jutrel.service.problem import NotFound

router = APIRouter(prefix="/api/languages", tags=["languages"], responses=PROBLEMS)
FOREVER = "public, max-age=31536000, immutable"


class LanguageOut(Out):
    """A language by its code, its name in itself, and the name of what its pages say."""

    code: str
    name: str
    tag: str


class SentenceOut(Out):
    """A sentence in English, and what it is said of."""

    context: str
    text: str
    many: str


class LackingOut(Out):
    """What a language has no words for: `pages` by the path in its interface file."""

    code: str
    sentences: list[SentenceOut]
    pages: list[str]
    of_sentences: int
    of_pages: int


@router.get("")
async def get_languages(request: Request) -> list[LanguageOut]:
    """Every language that can be chosen. Needs no session."""
    known = shop_of(request).books.languages.by_code
    return [LanguageOut(code=code, name=one.name, tag=one.tag) for code, one in known.items()]


Code = Path(pattern=r"^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$")


def _there(request: Request, code: str) -> None:
    if code not in shop_of(request).books.languages.by_code:
        raise NotFound("no-language", say("There are no files for the language '{code}'.", code=code))


@router.get(
    "/{code}/pages/{tag}",
    response_class=Response,
    responses={200: {"content": {"application/json": {}}}},
)
async def get_pages(request: Request, code: str = Code, tag: str = Path(pattern="^[0-9a-f]{20}$")) -> Response:
    """What the pages say in a language; what bears a tag never changes. Needs no session."""
    _there(request, code)
    one = shop_of(request).books.languages.by_code[code]
    headers = {"Cache-Control": FOREVER if tag == one.tag else "no-store"}
    return Response(one.interface, media_type="application/json", headers=headers)


@router.get("/{code}/lacking")
def get_lacking(request: Request, code: str = Code) -> LackingOut:
    """What a language has no words for yet; in its place stands English. Needs no session."""
    _there(request, code)
    books = shop_of(request).books
    sentences, pages, of_sentences, of_pages = books.languages.lacking(code, books.catalog)
    return LackingOut(
        code=code,
        sentences=[SentenceOut.model_validate(s) for s in sentences],
        pages=list(pages),
        of_sentences=of_sentences,
        of_pages=of_pages,
    )
