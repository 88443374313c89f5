"""Comes in by the address that bin/start prints, and asks for the page and a picture of every demo shot; an error where one is not there."""

import json
import os
import re
import sys
import urllib.error
import urllib.request
from http.cookiejar import MozillaCookieJar

import cv2
import numpy as np

# the address that bin/start printed signs in once; the cookie that it gives is kept in a file for the next time
entry, kept = sys.argv[1], MozillaCookieJar(sys.argv[2])
address = entry.split("/enter/")[0]
if os.path.exists(sys.argv[2]):
    kept.load(ignore_discard=True)
visitor = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(kept))


def asked(path):
    with visitor.open(address + path, timeout=60) as answer:
        return answer.read(), answer.headers


if not os.path.exists(sys.argv[2]):
    visitor.open(entry, timeout=60).close()
    kept.save(ignore_discard=True)
try:
    urllib.request.urlopen(address + "/api/shows", timeout=60)
    sys.exit("an outsider sees the shows")
except urllib.error.HTTPError as error:
    if error.code != 401:
        raise
page = asked("/")[0].decode()
scripts = re.findall(r'src="(/assets/[^"]+\.js)"', page)
if not scripts or not all(len(asked(script)[0]) > 10_000 for script in scripts):
    sys.exit("the page has no script: was it built?")
shots = [shot for show in json.loads(asked("/api/shows")[0])["shows"] for shot in show["shots"]]
if not shots:
    sys.exit("there is no demo shot")
for shot in shots:
    head = json.loads(asked(f"/api/shots/{shot['id']}/head")[0])["revision"]
    data, headers = asked(f"/api/shots/{shot['id']}/thumb?revision={head}&frame=1001&scale=4")
    picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    if "X-Problem" in headers or picture is None or picture.std() < 10:
        sys.exit(f"shot {shot['name']!r} has no picture: {headers.get('X-Problem', 'it is flat')}")
    print(f"shot {shot['name']!r}: {picture.shape[1]} x {picture.shape[0]}, mean {picture.mean():.0f}")
