"""Boards looked at, on the Cut list page and on the page of their lot."""

import re

from bright_willow.core.measuring.built_form import FAILED

RIB, SHELTER = 5, 5


def q(client, job):
    return re.search(r"/keep\?(seen=\d+&amp;in=\w+)", client.get(f"/jobs/{job}/prepare").text)[1].replace("&amp;", "&")


def add(client, job):
    return client.post(f"/jobs/{job}/prepare/rows?list=inspected&do=add&{q(client, job)}")


def keep(client, job, **values):
    data = {f"prepare.inspected.{k}": v for k, v in values.items()}
    return client.post(f"/jobs/{job}/prepare/keep?{q(client, job)}", data=data, headers={"accept": "application/json"})


def test_boards_are_kept_rejected_and_noted(demo_client):
    for _ in range(2):
        assert add(demo_client, RIB).status_code == 200
    kept = keep(demo_client, RIB, **{"0.verdict": "reject", "0.note": "shake at the butt", "1.matched": "pale"})
    assert kept.status_code == 200
    page = demo_client.get(f"/jobs/{RIB}/prepare").text
    assert "Inspected: 1 kept, 1 rejected." in page
    assert "rejected; shake at the butt" in page and "set pale" in page
    assert '<th scope="col">set</th>' in page


def test_a_faulty_board_is_said_beside_it(demo_client):
    for _ in range(2):
        add(demo_client, RIB)
    twice = keep(demo_client, RIB, **{"0.board": "2", "1.board": "2"})
    assert "Board 2 is listed twice." in twice.text and 'value="2"' in twice.text
    long = keep(demo_client, RIB, **{"0.note": "x" * 81})
    assert long.status_code == 422 and "At most 80 characters" in long.text and "x" * 81 in long.text


def test_a_lot_tells_what_was_kept_and_what_came_out_whole(demo_client, demo_store):
    demo_client.get("/rack")  # works out what each job takes
    with demo_store.connected():
        job = next(
            s
            for s in demo_store.jobs.find()
            if s.job.stock.lot and demo_store.summaries.all_of_lot(s.job.stock.lot.name, 9)
        )
        lot = next(x for x in demo_store.rack.lots() if x.lot.name == job.job.stock.lot.name)
        ids = set(demo_store.summaries.all_of_lot(lot.lot.name, 200))
        made, lost = demo_store.pieces.made_by_jobs(ids)
        forms = demo_store.forms.find()
        sound, whose = next((p, f.job_id) for f in forms for p in f.pieces if not p.mishap and not p.verdict)
        before = demo_store.pieces.made_by_jobs({whose})
        demo_store.pieces.save_decision(sound.id, "reject")
        assert demo_store.pieces.made_by_jobs({whose}) == (before[0], before[1] + 1)
    of_lot = [p for f in forms if f.job_id in ids for p in f.pieces]
    assert (made, lost) == (len(of_lot), sum(p.mishap in FAILED or p.verdict == "reject" for p in of_lot))
    for _ in range(4):
        add(demo_client, job.id)
    keep(demo_client, job.id, **{"2.verdict": "reject"})
    page = demo_client.get(f"/rack/lots/{lot.id}").text
    assert "3 of 4 boards kept (75%)" in page
    if made:
        assert f"{made - lost} of {made} pieces came out whole" in page
