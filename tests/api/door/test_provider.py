"""Signing in by the federation's provider, through the stand-in, and every way it must not work."""

from __future__ import annotations

import json
import time
from typing import Any
from unittest import mock
from urllib.parse import parse_qs, urlsplit

import httpx2 as httpx
import jwt
from cryptography.hazmat.primitives.asymmetric import rsa
from fastapi.testclient import TestClient

from bildung.api.door.signin import ATTEMPT_COOKIE
from bildung.services.door import provider
from bildung.services.shared import settings
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotFound
from bildung.standins.beside import beside
from bildung.standins.provider import Account, create_provider
from tests.api.shared.test_access import ApiCase


class ProviderCase(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        with self.ctx.store.read() as db:
            from bildung.store.models import Person

            student = db.query(Person).filter(Person.code == self.code).one()
            self.student = student.source_id
        self.accounts = [
            Account("local:boss", "boss", "Hanne Quill", ""),
            Account(self.student, "", "A Student", ""),
            Account("local:kin", "kin", "kin X", ""),
            Account("stranger", "nobody.here", "Stranger", ""),
        ]
        running = beside(create_provider(lambda: self.accounts))
        self.address = running.__enter__()
        self.addCleanup(running.__exit__, None, None, None)
        settings.change_settings(self.ctx, self.boss, {"provider_on": True, "provider_address": self.address})

    def leave(self) -> tuple[TestClient, dict[str, str]]:
        client = TestClient(self.app, follow_redirects=False)
        there = client.get("/api/signin/provider").headers["location"]
        self.assertTrue(there.startswith(self.address))
        return client, {name: values[0] for name, values in parse_qs(urlsplit(there).query).items()}

    def choose(self, query: dict[str, str], subject: str) -> str:
        answer = httpx.post(
            f"{self.address}/chosen",
            data={
                "subject": subject,
                "redirect_uri": query["redirect_uri"],
                "state": query["state"],
                "nonce": query["nonce"],
                "challenge": query["code_challenge"],
            },
        )
        return urlsplit(answer.headers["location"]).query


class SigningIn(ProviderCase):
    def test_everybody_lands_on_their_own_page(self) -> None:
        for subject, page, mine in (
            ("local:boss", "/start", "/api/me"),
            (self.student, "/own", "/api/own"),
            ("local:kin", "/family", "/api/family"),
        ):
            client, query = self.leave()
            back = client.get(f"/api/signin/back?{self.choose(query, subject)}")
            self.assertEqual((back.status_code, back.headers["location"]), (303, page))
            self.assertEqual(client.get(mine).status_code, 200)
            self.assertNotIn(ATTEMPT_COOKIE, client.cookies)

    def test_who_is_not_here_is_not_made_here(self) -> None:
        client, query = self.leave()
        back = client.get(f"/api/signin/back?{self.choose(query, 'stranger')}")
        self.assertEqual(back.headers["location"], "/?said=unknown")
        self.assertEqual(client.get("/api/me").status_code, 401)

    def test_a_code_is_good_once_and_only_for_who_began(self) -> None:
        client, query = self.leave()
        answer = self.choose(query, "local:boss")
        other, _ = self.leave()
        self.assertIn("said=attempt", other.get(f"/api/signin/back?{answer}").headers["location"])
        self.assertEqual(client.get(f"/api/signin/back?{answer}").headers["location"], "/start")
        again = TestClient(self.app, follow_redirects=False)
        self.assertIn("said=late", again.get(f"/api/signin/back?{answer}").headers["location"])

    def enter(self, subject: str) -> tuple[TestClient, str]:
        client, query = self.leave()
        return client, client.get(f"/api/signin/back?{self.choose(query, subject)}").headers["location"]

    def waiting(self) -> list[tuple[str, bool, str]]:
        boss = self.client("coordinator")
        found = boss.get(f"/api/people/{self.boss_id}").json()["accounts"]
        return [(a["name"], a["waits"], a["id"]) for a in found]

    def test_a_user_name_alone_signs_nobody_in_until_a_coordinator_confirms_it(self) -> None:
        self.accounts.append(Account("s-77", " BOSS", "Somebody", ""))
        client, where = self.enter("s-77")
        self.assertEqual(where, "/?said=waiting")
        self.assertEqual(client.get("/api/me").status_code, 401)
        ((name, waits, id),) = self.waiting()
        self.assertEqual((name, waits), ("boss", True))
        boss = self.client("coordinator")
        self.assertEqual(boss.post(f"/api/people/accounts/{id}", json={"yes": True}).status_code, 204)
        client, where = self.enter("s-77")
        self.assertEqual((where, client.get("/api/me").status_code), ("/start", 200))
        self.assertEqual(boss.delete(f"/api/people/accounts/{id}").status_code, 204)
        self.assertEqual(self.enter("s-77")[1], "/?said=waiting")

    def test_a_user_name_that_goes_to_somebody_else_takes_nobody_along(self) -> None:
        self.accounts.append(Account("s-77", "boss", "Hanne Quill", ""))
        self.enter("s-77")
        boss = self.client("coordinator")
        boss.post(f"/api/people/accounts/{self.waiting()[0][2]}", json={"yes": True})
        self.accounts[-1] = Account("s-77", "somebody.new", "Hanne Quill", "")
        self.accounts.append(Account("s-78", "boss", "Next Holder", ""))
        self.assertEqual(self.enter("s-77")[1], "/start", "the subject is who it is, whatever it is called")
        self.assertEqual(self.enter("s-78")[1], "/?said=waiting")
        boss.post(f"/api/people/accounts/{self.waiting()[1][2]}", json={"yes": False})
        self.assertEqual(self.enter("s-78")[1], "/?said=unknown")

    def test_only_who_may_reset_accounts_there_confirms(self) -> None:
        self.accounts.append(Account("s-77", "boss", "Hanne Quill", ""))
        self.enter("s-77")
        id = int(self.waiting()[0][2])
        far = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 999),), sign_in_id=0, csrf="")
        with self.assertRaises(NotFound):
            provider.confirm(self.ctx, far, id, True)

    def test_what_the_way_back_says_is_never_an_error_of_ours(self) -> None:
        client, _ = self.leave()
        for state in ("é", "%00", "", "x" * 5000):
            answer = client.get("/api/signin/back", params={"state": state, "code": "é"})
            self.assertEqual((answer.status_code, answer.headers["location"].split("=")[0]), (303, "/?said"))

    def test_off_it_is_not_there(self) -> None:
        settings.change_settings(self.ctx, self.boss, {"provider_on": False})
        self.assertEqual(TestClient(self.app).get("/api/signin/provider").status_code, 404)
        self.assertEqual(TestClient(self.app).get("/api/welcome").json()["provider"], "")
        settings.change_settings(self.ctx, self.boss, {"provider_on": True, "provider_address": "http://127.0.0.1:9"})
        with self.assertRaisesRegex(Invalid, "cannot be reached"):
            provider.begin(self.ctx, "http://back")
        door = TestClient(self.app, follow_redirects=False).get("/api/signin/provider")
        self.assertIn("said=unreachable", door.headers["location"])


class Tokens(ProviderCase):
    """A provider's answer is worth what its signature, issuer, audience, time and nonce are worth."""

    def finish(self, token: str, attempt: provider.Attempt) -> Any:
        real = httpx.post

        def answered(url: str, **given: Any) -> Any:
            return httpx.Response(200, json={"id_token": token}) if url.endswith("/token") else real(url, **given)

        with mock.patch.object(provider.httpx, "post", answered):
            return provider.finish(self.ctx, "http://back", attempt, attempt.state, "code", "here", "")

    def test_each_part_of_a_token_is_checked(self) -> None:
        key = rsa.generate_private_key(public_exponent=65537, key_size=2048)
        public = {
            **json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(key.public_key())),
            "kid": "k",
            "use": "sig",
            "alg": "RS256",
        }
        attempt = provider.Attempt("s", "nonce-1", "v")
        now = int(time.time())
        good = {
            "iss": self.address,
            "sub": "local:boss",
            "aud": "bildung",
            "iat": now,
            "exp": now + 300,
            "nonce": "nonce-1",
            "preferred_username": "boss",
        }
        get = httpx.get

        def keys(url: str, **given: Any) -> Any:
            return httpx.Response(200, json={"keys": [public]}) if url.endswith("/keys") else get(url, **given)

        def token(changes: dict[str, Any], signer: Any = key, kid: str = "k") -> str:
            claims = {name: value for name, value in (good | changes).items() if value is not None}
            return jwt.encode(claims, signer, algorithm="RS256", headers={"kid": kid})

        with mock.patch.object(provider.httpx, "get", keys):
            self.assertEqual(self.finish(token({}), attempt).kind, "staff")
            stranger = rsa.generate_private_key(public_exponent=65537, key_size=2048)
            unsigned = jwt.encode(good, "", algorithm="none", headers={"kid": "k"})
            for name, bad in (
                ("another key", token({}, stranger)),
                ("unknown key id", token({}, key, "other")),
                ("unsigned", unsigned),
                ("another audience", token({"aud": "else"})),
                ("another issuer", token({"iss": "http://else"})),
                ("run out", token({"exp": now - 3600})),
                ("no time", token({"exp": None})),
                ("no nonce", token({"nonce": None})),
                ("nonsense", "abc"),
            ):
                with self.subTest(name), self.assertRaisesRegex(Invalid, "not to be trusted"):
                    self.finish(bad, attempt)
            with self.assertRaisesRegex(Invalid, "another attempt"):
                self.finish(token({"nonce": "other"}), attempt)
            with self.assertRaises(NotFound):
                self.finish(token({"preferred_username": "who", "sub": "ever"}), attempt)
