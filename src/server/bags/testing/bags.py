"""Bags written and read after RFC 8493 alone, for checks from outside: nothing here knows the application.

write FOLDER FORM...   makes FOLDER/<form> for each form, a bag (§2.1, §2.2) in one of the ways the RFC allows or forbids
read BAG               checks a bag, a folder or a ZIP (§3), and prints its payload's paths as JSON
"""

import hashlib
import json
import os
import sys
import zipfile

PAYLOAD = {
    "scenes/a.gltf": b'{"images":[{"uri":"../textures/%C3%BC.png"}]}',
    "textures/\u00fc.png": b"PNG",
    "100% wool.txt": b"w",
    "two  blanks.txt": b"b",
    "deep/er/empty.bin": b"",
}


def encoded(path):
    return path.replace("%", "%25").replace("\n", "%0A").replace("\r", "%0D")


def write(folder, form):
    payload = dict(PAYLOAD)
    if form == "line ends in names":
        payload["a\nb\rc.txt"] = b"l"
    end = "\r\n" if "crlf" in form else "\r" if "cr only" in form else "\n"
    version = "0.97" if "0.97" in form else "1.0"
    algorithms = ["md5"] if "md5" in form else ["sha1"] if "sha1" in form else ["sha256"]
    if form == "two manifests":
        algorithms = ["sha256", "sha512"]
    upper = form == "upper-case sums"
    gap = {"tabs": "\t", "many blanks": "     ", "one blank": " "}.get(form, "  ")
    os.makedirs(folder)
    for path, content in payload.items():
        at = os.path.join(folder, "data", path)
        os.makedirs(os.path.dirname(at), exist_ok=True)
        with open(at, "wb") as out:
            out.write(content)
    tags = {"bagit.txt": f"BagIt-Version: {version}{end}Tag-File-Character-Encoding: UTF-8{end}"}
    for name in algorithms:
        lines = []
        for path, content in payload.items():
            digest = hashlib.new(name, content).hexdigest()
            lines.append(f"{digest.upper() if upper else digest}{gap}{encoded('data/' + path)}{end}")
        tags[f"manifest-{name}.txt"] = "".join(lines if form != "no last line end" else lines)[: None if form != "no last line end" else -len(end)]
    size = sum(len(c) for c in payload.values())
    tags["bag-info.txt"] = (
        f"Source-Organization: Quay Street{end}External-Description: a long line{end}  that goes on{end}"
        f"Payload-Oxum: {size}.{len(payload)}{end}Contact-Name: One{end}Contact-Name: Two{end}"
    )
    if form == "fetch":
        tags["fetch.txt"] = f"https://example.org/x.png 3 data/x.png{end}"
        tags["manifest-sha256.txt"] += f"{hashlib.sha256(b'PNG').hexdigest()}  data/x.png{end}"
    if form == "tags in folders":
        tags["about/what.txt"] = f"hello{end}"
    if form != "no tag manifest":
        for name in algorithms:
            tags[f"tagmanifest-{name}.txt"] = "".join(
                f"{hashlib.new(name, text.encode()).hexdigest()}  {path}{end}"
                for path, text in list(tags.items())
                if not path.startswith("tagmanifest")
            )
    for path, text in tags.items():
        at = os.path.join(folder, path)
        os.makedirs(os.path.dirname(at), exist_ok=True)
        with open(at, "wb") as out:
            out.write(text.encode())


def zipped(folder, to):
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as z:
        for here, _, names in os.walk(folder):
            for name in names:
                at = os.path.join(here, name)
                z.write(at, os.path.relpath(at, os.path.dirname(folder)))


class Files:
    """A bag's files by path below its base folder."""

    def __init__(self, at):
        self.files = {}
        if os.path.isdir(at):
            for here, _, names in os.walk(at):
                for name in names:
                    full = os.path.join(here, name)
                    self.files[os.path.relpath(full, at)] = open(full, "rb").read()
            return
        with zipfile.ZipFile(at) as z:
            assert z.testzip() is None, "the ZIP is damaged"
            names = [n for n in z.namelist() if not n.endswith("/")]
            tops = {n.split("/")[0] for n in z.namelist()}
            assert len(tops) == 1, f"one base folder, section 4: {tops}"
            for name in names:
                self.files[name.split("/", 1)[1]] = z.read(name)


def decoded(path):
    for code, char in (("%0A", "\n"), ("%0a", "\n"), ("%0D", "\r"), ("%0d", "\r"), ("%25", "%")):
        path = path.replace(code, char)
    return path


def lines_of(content):
    return [l for l in content.decode("utf-8").replace("\r\n", "\n").replace("\r", "\n").split("\n") if l]


def read(at):
    files = Files(at).files
    assert lines_of(files["bagit.txt"]) == ["BagIt-Version: 1.0", "Tag-File-Character-Encoding: UTF-8"]
    payload = {p for p in files if p.startswith("data/")}
    manifests = [p for p in files if p.startswith("manifest-") and p.endswith(".txt")]
    assert manifests, "no payload manifest"
    for name in manifests + [p for p in files if p.startswith("tagmanifest-")]:
        algorithm = name.split("-", 1)[1][:-4]
        listed = set()
        for line in lines_of(files[name]):
            digest, path = line.split(None, 1)
            path = decoded(path)
            assert path not in listed, f"{path} twice in {name}"
            assert hashlib.new(algorithm, files[path]).hexdigest() == digest.lower(), f"{path} by {name}"
            listed.add(path)
        if name in manifests:
            assert listed == payload, f"{name} lists {listed ^ payload} or lacks it"
        else:
            rest = {p for p in files if not p.startswith("data/") and not p.startswith("tagmanifest-")}
            assert listed == rest, f"{name} lists {listed ^ rest} or lacks it"
    info = dict(l.split(": ", 1) for l in lines_of(files["bag-info.txt"]) if ": " in l and l[0] not in " \t")
    assert info["Payload-Oxum"] == f"{sum(len(files[p]) for p in payload)}.{len(payload)}"
    print(json.dumps(sorted(payload)))


if __name__ == "__main__":
    if sys.argv[1] == "read":
        read(sys.argv[2])
    else:
        for form in sys.argv[3:]:
            folder = os.path.join(sys.argv[2], form)
            write(folder, form)
            zipped(folder, folder + ".zip")
