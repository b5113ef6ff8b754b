"""Headers of every answer: what a browser may do with our pages (OWASP Secure Headers Project)."""

from starlette.datastructures import URL

HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; "
    "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "X-Permitted-Cross-Domain-Policies": "none",
    # the page of a form that was done is found again by it
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Embedder-Policy": "require-corp",
    "Permissions-Policy": "camera=(), display-capture=(), geolocation=(), microphone=(), payment=(), usb=()",
}
#: A browser that came by HTTPS once comes by it for a year (RFC 6797).
_STRICT_TRANSPORT = {"Strict-Transport-Security": "max-age=31536000; includeSubDomains"}


def headers_for(url: URL, *, posts_to: str = "") -> dict[str, str]:
    """Return the headers of an answer to an address.

    Parameters
    ----------
    posts_to
        The origin of another site to which the page's form may be sent; "" for none.
    """
    headers = HEADERS | _STRICT_TRANSPORT if url.scheme == "https" else HEADERS
    if posts_to:
        policy = headers["Content-Security-Policy"].replace("form-action 'self'", f"form-action 'self' {posts_to}")
        return headers | {"Content-Security-Policy": policy}
    return headers
