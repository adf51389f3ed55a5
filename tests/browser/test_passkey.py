"""A passkey made and used in a browser, with a device the browser makes up."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from goodcrate.demo.week import SIGN_IN_PASSWORD
from tests.browser.conftest import Sight, looking
from tests.browser.test_paths import sign_in


def with_device(page: Page) -> None:
    """Give the browser a device that keeps passkeys and is sure who holds it."""
    devtools = page.context.new_cdp_session(page)
    devtools.send("WebAuthn.enable")
    kinds = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True}
    sure = {"hasUserVerification": True, "isUserVerified": True, "automaticPresenceSimulation": True}
    devtools.send("WebAuthn.addVirtualAuthenticator", {"options": kinds | sure})


@pytest.fixture
def named(chromium: Browser, demo_address: str) -> Iterator[Sight]:
    """The address of the demo by a name, as passkeys want it."""
    with looking(chromium, demo_address.replace("127.0.0.1", "localhost")) as sight:
        yield sight


def test_in_without_a_password(named: Sight) -> None:
    page = sign_in(named)
    with_device(page)
    page.goto(named.base + "/account")
    panel = page.locator("#passkeys")
    panel.get_by_label("Your password, this once").fill("barley")
    panel.get_by_role("button", name="Make a passkey").click()
    expect(panel.get_by_role("alert")).to_contain_text("This is not your password.")
    panel.get_by_label("Your password, this once").fill(SIGN_IN_PASSWORD)
    panel.get_by_role("button", name="Make a passkey").click()
    expect(panel.get_by_role("status")).to_contain_text("Made.")
    expect(panel.get_by_text("not used yet")).to_be_visible()
    panel.get_by_label("Your password, this once").fill(SIGN_IN_PASSWORD)
    panel.get_by_role("button", name="Make a passkey").click()
    expect(panel.get_by_role("alert")).to_contain_text("This device has a passkey of yours already.")
    page.context.clear_cookies()
    page.goto(named.base + "/account")
    page.get_by_role("button", name="Use a passkey").click()
    expect(page.locator("#passkeys").get_by_text("last used")).to_be_visible()
    page.get_by_role("button", name="Remove the passkey").click()
    expect(page.locator("#passkeys").get_by_text("last used")).to_have_count(0)
    page.context.clear_cookies()
    page.goto(named.base + "/sign-in")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    expect(page.get_by_role("button", name="Use a passkey")).to_have_count(0)
