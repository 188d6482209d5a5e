using System.IO.Compression;
using System.Text;
using System.Text.Json;

namespace WarySentinel.EndToEnd;

/// <summary>A site of files that leaks in thirty-eight ways: lying about, in data, and drawn by scripts.</summary>
internal static class LeakySite
{
    private const string Mirror = "Grinding begins with the coarse stone. Walk around the barrel, turn the glass a little each time, and never hurry the last "
        + "strokes; a mirror that was hurried shows it for as long as it lives. Rinse well between the grades and keep your sleeves clean.";

    private const string Quarry = "Leave the moor road at the second cattle grid and park behind the wall. From there it is eleven minutes on foot to the old "
        + "quarry floor, which is the darkest place within an hour of the dome. Tell somebody before you go, and take the path back by daylight.";

    /// <summary>The items and the gate.</summary>
    public const string Policy = """
        items:
          - { id: site, title: The hill, addresses: [/] }
          - { id: "page:visit", title: Visit, addresses: [/visit/] }
          - { id: "section:members", title: Members, addresses: [] }
          - { id: "page:mirror", title: The Quiet Mirror, parents: ["section:members"], addresses: [/members/mirror/] }
          - { id: "page:quarry", title: The old quarry, parents: ["section:members"], addresses: [/members/quarry/] }
          - { id: "download:plan", title: Plan of the dome, parents: ["section:members"], addresses: [/members/plan.pdf] }
          - { id: "download:frames", title: Dark frames of the winter, parents: ["section:members"], addresses: [/members/frames.bin] }
          - { id: "product:dome", title: "Dome drive, second hand", addresses: [/product/dome/] }
        gates:
          - { key: members, title: For members, covers: ["section:members", "product:dome"], audience: signed-in, presence: hidden }

        """;

    /// <summary>Leaks that a page draws by a script; nothing of them stands in any file as it is.</summary>
    public static readonly IReadOnlyDictionary<string, string> Drawn = new Dictionary<string, string>
    {
        ["/drawn/text/"] = $"<div id=x></div><script>document.getElementById('x').textContent = {Turned(Mirror)}</script>",
        ["/drawn/title/"] = $"<ul id=x></ul><script>document.getElementById('x').innerHTML = '<li>' + {Turned("Dome drive, second hand")}</script>",
        ["/drawn/link/"] = "<p id=x></p><script>document.getElementById('x').innerHTML = '<a href=\"/mem' + 'bers/qua' + 'rry/\">x</a>'</script>",
        ["/drawn/shadow/"] = $"<b-x></b-x><script>document.querySelector('b-x').attachShadow({{mode:'closed'}}).innerHTML = {Turned(Quarry)}</script>",
        ["/drawn/canvas/"] = "<canvas id=x></canvas><script>const c = document.getElementById('x').getContext('2d');"
            + $"{Turned(Quarry)}.split('. ').forEach((s, n) => c.fillText(s, 0, n * 9))</script>",
        ["/drawn/later/"] = $"<div id=x></div><script>setTimeout(() => {{ document.getElementById('x').innerText = {Turned(Mirror)} }}, 250)</script>",
        ["/drawn/frame/"] = "<iframe srcdoc='<p id=y></p>'></iframe><script>onload = () => "
            + $"frames[0].document.body.innerText = {Turned(Quarry)}</script>",
        ["/drawn/field/"] = $"<textarea id=x></textarea><script>document.getElementById('x').value = {Turned(Mirror)}</script>",
        ["/drawn/down/"] = "<div style='height:4000px'></div><div id=x></div><script>new IntersectionObserver((all, o) => { if (all[0].isIntersecting) { "
            + $"o.disconnect(); document.getElementById('x').innerText = {Turned(Quarry)} }} }}).observe(document.getElementById('x'))</script>",
        ["/drawn/data/"] = "<div id=x></div><script>fetch('/dr' + 'awer/' + [1, 2].join('-') + '.dat').then(a => a.text())"
            + ".then(t => document.getElementById('x').innerText = t.split('').reverse().join(''))</script>",
    };

    /// <summary>Leaks that lie there as files.</summary>
    public static readonly IReadOnlyDictionary<string, byte[]> Lying = new Dictionary<string, byte[]>
    {
        ["/searchindex.js"] = Text($"Search.setIndex({{docs:['mirror'],titles:['The Quiet Mirror'],texts:[{JsonSerializer.Serialize(Mirror)}]}})"),
        ["/_sources/members/mirror.rst.txt"] = Text("The Quiet Mirror\n================\n\n" + Mirror),
        ["/data/list.json"] = Text("[{\"name\":\"The Quiet Mirror\",\"price\":40},{\"name\":\"Dome drive, second hand\",\"price\":900}]"),
        ["/map.html"] = Text("<html><map><area shape=rect coords=0,0,9,9 href=/members/quarry/></map></html>"),
        ["/feed.xml"] = Text("<rss><channel><item><title>x</title><link>/members/mirror/</link></item></channel></rss>"),
        ["/members/mirror.bak"] = Text(Mirror),
        ["/members.tar.gz"] = TarGz("members/quarry.html", Quarry),
        ["/print/members/quarry/"] = Text($"<html><body><p>{Quarry}</p></body></html>"),
        ["/js/app.js.map"] = Text(JsonSerializer.Serialize(new { sourcesContent = new[] { "const words = `" + Quarry + "`;" } })),
        ["/export.csv"] = Text("title;words\nx;\"" + Mirror + "\"\n"),
        ["/robots.txt"] = Text("User-agent: *\nDisallow: /members/quarry/\nSitemap: /maps/all.txt\n"),
        ["/comment.html"] = Text($"<html><body><p>Nothing here.</p><!-- {Mirror} --></body></html>"),
        ["/state.html"] = Text("<html><body><script>window.__STATE__={\"items\":[{\"t\":\"Dome drive, second hand\"}]}</script></body></html>"),
        ["/archive/2019.html"] = Text($"<html><body><h1>From the archive</h1><p>{Mirror}</p><p>{Quarry}</p></body></html>"),
        ["/files/course.pdf"] = Pdf(Mirror),
        ["/files/course.docx"] = Docx(Quarry),
        ["/files/old-frames.bin"] = Frames(),
        ["/files/packed.json"] = Text($"{{\"body\":\"{Base64("<p>" + Mirror + "</p>")}\"}}"),
        ["/percent.html"] = Text($"<html><body><script>show(decodeURIComponent('{Uri.EscapeDataString("<p>" + Quarry)}'))</script></body></html>"),
        ["/files/course.txt"] = [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(Mirror)],
        ["/files/hyphens.html"] = Text($"<html><body>{Quarry.Replace("a", "a&shy;", StringComparison.Ordinal)}</body></html>"),
        ["/files/site.sqlite"] = [.. "SQLite format 3\0"u8, .. new byte[900], .. Text(Quarry), .. new byte[900]],
        ["/files/quarry.html.br"] = Brotli($"<html><body><p>{Quarry}</p></body></html>"),
        ["/deep/er/list"] = Text(Mirror),
        ["/maps/all.txt"] = Text("http://elsewhere.example/\n/members/mirror/\n"),
        ["/.git/HEAD"] = Text("ref: refs/heads/main\n"),
        ["/nothing.html"] = Text("<html><body><h1>Nothing is here</h1><p>Try <a href=/members/mirror/>this</a>.</p></body></html>"),
        ["/xscript.html"] = Text("<html><body><script>var s = '" + string.Concat(Quarry.Select(c => $"\\x{(int)c:x2}")) + "'</script></body></html>"),
    };

    /// <summary>Lays the site into a folder. The guarded pages, and all that leaks them.</summary>
    public static async Task LayAsync(string root)
    {
        async Task PutAsync(string at, byte[] bytes)
        {
            var file = Path.Combine(root, (at.EndsWith('/') ? at + "index.html" : at)[1..]);
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            await File.WriteAllBytesAsync(file, bytes);
        }

        var links = string.Join(' ', Drawn.Keys.Concat(Lying.Keys.Where(l => l.EndsWith(".html", StringComparison.Ordinal)
            || l.StartsWith("/files", StringComparison.Ordinal) || l.EndsWith(".csv", StringComparison.Ordinal))).Select(l => $"<a href=\"{l}\">x</a>"));
        links += " <a href=based.html>x</a><script src=/js/app.js></script>";
        await PutAsync("/", Page("The hill", $"<p>Welcome to the hill, where the nights are long.</p>{links}"));
        await PutAsync("/based.html", Text("<html><head><base href='/deep/er/'></head><body><a href=\"list\">x</a></body></html>"));
        await PutAsync("/visit/", Page("Visit", "<p>We are open on clear nights, from dusk until the last guest has gone home.</p>"));
        await PutAsync("/members/mirror/", Page("The Quiet Mirror", $"<p>{Mirror}</p>"));
        await PutAsync("/members/quarry/", Page("The old quarry", $"<p>{Quarry}</p>"));
        await PutAsync("/members/plan.pdf", Pdf("The shutter runs on eleven wheels; the third squeaks whenever the wind stands from the north."));
        await PutAsync("/members/frames.bin", Frames());
        await PutAsync("/product/dome/", Page("Dome drive, second hand", "<p>One owner, eleven winters, new belt.</p>"));
        await PutAsync("/js/app.js", Text("if (window.never) fetch('/data/list.json');\n//# sourceMappingURL=app.js.map"));
        await PutAsync("/drawer/1-2.dat", Text(new string([.. Mirror.Reverse()])));
        foreach (var (at, body) in Drawn)
        {
            await PutAsync(at, Page("A page", "<p>Drawn as it is opened.</p>" + body));
        }

        foreach (var (at, bytes) in Lying)
        {
            await PutAsync(at, bytes);
        }
    }

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text);

    /// <summary>A script's expression for a text that does not stand in it.</summary>
    private static string Turned(string text) => $"[...'{new string([.. text.Reverse()])}'].reverse().join('')";

    private static string Base64(string text) => Convert.ToBase64String(Text(text));

    private static byte[] Page(string title, string body) =>
        Text($"<!doctype html><html><head><title>{title}</title></head><body><nav><a href=/>Home</a></nav><main><h1>{title}</h1>{body}</main></body></html>");

    private static byte[] Frames()
    {
        var frames = new byte[90_000];
        new Random(11).NextBytes(frames);
        frames[3] = 0;
        return frames;
    }

    private static byte[] TarGz(string name, string text)
    {
        using var file = new MemoryStream();
        using (var gzip = new GZipStream(file, CompressionLevel.Optimal, true))
        using (var tar = new System.Formats.Tar.TarWriter(gzip))
        {
            tar.WriteEntry(new System.Formats.Tar.PaxTarEntry(System.Formats.Tar.TarEntryType.RegularFile, name) { DataStream = new MemoryStream(Text(text)) });
        }

        return file.ToArray();
    }

    private static byte[] Brotli(string text)
    {
        using var file = new MemoryStream();
        using (var packed = new BrotliStream(file, CompressionLevel.Optimal, true))
        {
            packed.Write(Text(text));
        }

        return file.ToArray();
    }

    private static byte[] Docx(string text)
    {
        using var file = new MemoryStream();
        using (var packed = new ZipArchive(file, ZipArchiveMode.Create, true))
        {
            using var document = new StreamWriter(packed.CreateEntry("word/document.xml").Open());
            var runs = text.Replace(" the ", "</w:t></w:r><w:r><w:t> the ", StringComparison.Ordinal);
            document.Write($"<w:document><w:body><w:p><w:r><w:t>{runs}</w:t></w:r></w:p></w:body></w:document>");
        }

        return file.ToArray();
    }

    /// <summary>A PDF as small as they come: a page, a font that every reader has, packed words (ISO 32000-1 §7.5).</summary>
    private static byte[] Pdf(string text)
    {
        using var packed = new MemoryStream();
        using (var zlib = new ZLibStream(packed, CompressionLevel.Optimal, true))
        {
            zlib.Write(Encoding.ASCII.GetBytes($"BT /F1 12 Tf 14 TL 40 800 Td\n{Lined(text)}ET"));
        }

        using var pdf = new MemoryStream();
        var places = new List<long>();
        void Say(string what) => pdf.Write(Encoding.ASCII.GetBytes(what));
        Say("%PDF-1.4\n");
        foreach (var piece in (string[])["<</Type/Catalog/Pages 2 0 R>>", "<</Type/Pages/Kids[3 0 R]/Count 1>>",
            "<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents 4 0 R/Resources<</Font<</F1 5 0 R>>>>>>", "",
            "<</Type/Font/Subtype/Type1/BaseFont/Helvetica/Encoding/WinAnsiEncoding>>"])
        {
            places.Add(pdf.Position);
            Say($"{places.Count} 0 obj\n");
            if (piece.Length == 0)
            {
                Say($"<</Length {packed.Length}/Filter/FlateDecode>>\nstream\n");
                pdf.Write(packed.ToArray());
                Say("\nendstream");
            }

            Say(piece + "\nendobj\n");
        }

        var table = pdf.Position;
        Say($"xref\n0 {places.Count + 1}\n0000000000 65535 f \n{string.Concat(places.Select(p => $"{p:0000000000} 00000 n \n"))}");
        Say($"trailer\n<</Size {places.Count + 1}/Root 1 0 R>>\nstartxref\n{table}\n%%EOF\n");
        return pdf.ToArray();
    }

    /// <summary>Words in lines, as they are drawn one beneath the other.</summary>
    private static string Lined(string text)
    {
        var (lines, line) = (new StringBuilder(), "");
        foreach (var word in text.Split(' '))
        {
            if (line.Length + word.Length > 70)
            {
                lines.Append('(').Append(line).Append(") Tj T*\n");
                line = "";
            }

            line += (line.Length > 0 ? " " : "") + word;
        }

        return lines.Append('(').Append(line).Append(") Tj T*\n").ToString();
    }
}
