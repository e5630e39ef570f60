"""What a neighbour without the token sees: a page that says what to do and takes the token."""

from typing import Final

from starlette.responses import HTMLResponse

# It stands alone, because everything else is behind the token; only its own form may be sent, and only to here.
POLICY: Final = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
PAGE: Final = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Token wanted, Odd Lamp</title>
<style>
:root {{ color-scheme: light dark; --ground: #e9e7f0; --sheet: #fbfafd; --ink: #261c3a; --copper: #a9562a; --cut: #b3123f }}
@media (prefers-color-scheme: dark) {{
:root {{ --ground: #15111d; --sheet: #1f1a2b; --ink: #eee9f8; --copper: #e0905a; --cut: #ff7b98 }} }}
body {{ margin: 0; background: var(--ground); color: var(--ink); font: 1rem/1.5 system-ui, sans-serif }}
main {{ max-width: 34rem; margin: 12vh auto; padding: 2rem; background: var(--sheet); border-radius: 2rem }}
h1 {{ margin: 0 0 .5rem; font-size: 1.5rem }}
input {{ width: 100%; box-sizing: border-box; padding: .5rem 0; border: 0; border-bottom: 2px solid var(--ink);
background: none; color: inherit; font: 1.1rem ui-monospace, monospace }}
button {{ margin-top: 1.25rem; padding: 0; border: 0; border-bottom: 2px solid var(--copper); background: none;
color: inherit; font: inherit; font-weight: 600; cursor: pointer }}
.wrong {{ color: var(--cut); font-weight: 600 }}
</style>
<main>
<h1>This Odd Lamp asks for its token.</h1>
{wrong}<p>It runs on another machine of your network. There, where it was started and under More, Open on a phone, stands
an address with a token: open that address, or type the part behind <code>token=</code> here. Every start makes a new one.</p>
<form method="get" action="/">
<label for="token">Token</label>
<input id="token" name="token" autocomplete="off" autocapitalize="none" spellcheck="false" required autofocus>
<button>Let me in</button>
</form>
</main>
</html>
"""


def locked_page(*, is_wrong: bool) -> HTMLResponse:
    """Make the page; ``is_wrong`` where a token was given and is not the one it has now."""
    wrong = '<p class="wrong" role="alert">That is not the token it has now.</p>\n' if is_wrong else ""
    headers = {"content-security-policy": POLICY, "x-content-type-options": "nosniff", "referrer-policy": "no-referrer"}
    return HTMLResponse(PAGE.format(wrong=wrong), status_code=401, headers=headers)
