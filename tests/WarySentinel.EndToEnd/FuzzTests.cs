using System.Collections.Concurrent;
using System.Net.Sockets;
using System.Text;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>
/// Mutated requests over every surface: no 5xx that is ours, no guarded byte. 1,500 of them in the suite, 100,000 in the long form, or as
/// many as WARY_FUZZ says. Whatever fails is written down with its number, by which it can be made again.
/// </summary>
public sealed class FuzzTests
{
    private static readonly int Requests = Trials.Of(1_500, 100_000, "WARY_FUZZ");

    private static readonly string[] Targets =
    [
        "/", "/shop", "/shop/dealer-stock", "/shop/dealer-stock/index.html", "/product/barlow-boxed", "/shop/clearance-vault", "/members/calendar",
            "/search?q=case", "/sitemap.xml", "/feed.xml",
        "/account/", "/account/sign-in?return_to=/shop/dealer-stock", "/account/unlock?gate=clearance-vault&return_to=/", "/account/opened",
        "/account/closed?return_to=/shop/dealer-stock", "/account/sign-out",
        "/account/assets/account.css", "/sentinel/check", "/sentinel/parts", "/sentinel/parts.js", "/sentinel/view?ticket=x", "/access/v1/evaluation",
        "/.well-known/authzen-configuration",
    ];

    private static readonly string[] AdminTargets =
    [
        "/", "/health/ready", "/api/v1/gates", "/api/v1/gates/dealer-stock", "/api/v1/gates/preview", "/api/v1/items?limit=5&search=x",
            "/api/v1/items/import", "/api/v1/members", "/api/v1/members/nell/status", "/api/v1/roles",
        "/api/v1/settings", "/api/v1/history?cursor=x", "/api/v1/decisions/may", "/api/v1/decisions/bulk", "/api/v1/board?beneath=site&at=2026-05-03",
        "/api/v1/seen?as=guest", "/api/v1/viewpoints/open", "/api/v1/passwords", "/api/v1/redirects/x",
        "/api/v1/tokens", "/api/v1/sign-in", "/api/v1/first-owner", "/api/v1/sessions/x", "/api/v1/apply?dryRun=true", "/api/v1/mend",
        "/api/v1/items/discover", "/access/v1/evaluations", "/access/v1/search/resource", "/api/v1/site.yaml",
    ];

    private static readonly string[] Methods = ["GET", "GET", "POST", "POST", "PUT", "DELETE", "HEAD", "OPTIONS", "PATCH", "TRACE", "CONNECT", "FOO", ""];
    private static readonly string[] Types =
        ["application/json", "application/x-www-form-urlencoded", "multipart/form-data; boundary=x", "text/csv", "application/yaml", "application/xml",
        "application/json; charset=nonsense", "x", ""];

    private static readonly string[] Bodies =
    [
        "{}", "[]", "null", "{\"visitor\":\"guest\",\"item\":\"site\"}",
            "{\"key\":\"g\",\"title\":\"G\",\"covers\":[null],\"audience\":\"not (\",\"acts\":[null]}", "{\"roles\":[null]}",
            "{\"parts\":[{\"in\":\"/x\"}],\"links\":[null]}",
        "{\"subject\":{\"type\":\"guest\",\"id\":\"g\"},\"action\":{\"name\":\"open\"},\"resource\":{\"type\":\"path\",\"id\":\"/shop\"}}",
        "{\"evaluations\":[{},null,7]}", "name=nell&password=wrong&return_to=/", "gate=clearance-vault&password=x",
        "--x\r\nContent-Disposition: form-data; name=\"name\"\r\n\r\nx\r\n--x--\r\n", "id,title\npage:a,A\n", "gates:\n- key: g\n",
        "[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[[", "<urlset><url>", "\0\0\0", "{\"a\":\"\\u0000\",\"email\":\"\\u0000@x.example\",\"name\":\"\\ud800\"}",
        "{\"siteName\":\"\\u202e\",\"paths\":{\"indexNames\":[null]},\"look\":null,\"crawlers\":[null],\"sweep\":null}",
        "{\"at\":\"9999-99-99\",\"as\":\"role:,,password:\"}", "{\"source\":\"sitemap\",\"url\":\"http://169.254.169.254/\",\"map\":[null]}", "%00=%00&&&=", "",
    ];

    private static readonly string[] Spice =
    [
        "\0", "%00", "%2f", "%2e%2e/", "../", "..\\", "//", "\\", ";", "?", "#", "%", "%zz", "\r\n", "\r\nX-Wary-Member: owner", "\u00ff", "*", "**",
            "?return_to=//evil.example", "&return_to=%00", "{{", "\"", "'", "<script>", " ", "\t", ":", "@",
        "%u0041", "%c0%af", "%f0%9f%94%ad", "\ud83d", "4294967296", "-1", "\n\n", "a", "=", "&", "index.html", ".css",
        "X-Original-URL: /shop/dealer-stock\r\n", "Transfer-Encoding: chunked\r\n", "Content-Length: 99999999999\r\n", "Expect: 100-continue\r\n",
        "Cookie: wary=x; wary-view=y\r\n", "Accept: application/json\r\n",
    ];

    [Fact]
    public async Task Whatever_is_sent_nothing_breaks_and_no_guarded_byte_leaves()
    {
        await using var site = await RunningSite.StartAsync();
        // Whoever bears the owner's token may open what they like: on a site of its own.
        await using var owned = await RunningSite.StartAsync();
        var broken = new ConcurrentQueue<string>();
        var statuses = new ConcurrentDictionary<int, int>();
        await Parallel.ForEachAsync(Enumerable.Range(0, Requests), new ParallelOptions { MaxDegreeOfParallelism = 24 }, async (seed, stop) =>
        {
            var random = new Random(seed);
            var admin = random.Next(3) == 0;
            var request = Make(random, admin, admin && random.Next(3) != 0 ? owned.Token : null);
            var answer = await SendAsync(admin ? owned.Admin : site.Site, request, stop);
            var status = RawHttp.StatusOf(answer);
            statuses.AddOrUpdate(status, 1, (_, n) => n + 1);
            // 505 is what a version of HTTP gets that nobody speaks; 503 while passwords queue.
            var isOurs = status is >= 500 and not (503 or 505);
            var leaks = !admin && (answer.Contains("Barlow lens, boxed", StringComparison.OrdinalIgnoreCase)
                || answer.Contains("Trade price", StringComparison.Ordinal));
            if (isOurs || leaks)
            {
                broken.Enqueue($"{seed}: {(leaks ? "LEAK" : status)}\n{Encoding.Latin1.GetString(request)}\n--\n"
                    + $"{(answer.Length > 600 ? answer[..600] : answer)}");
            }
        });
        broken.ShouldBeEmpty(string.Join("\n=====\n", broken.Take(25)));
        // It was a real conversation: most requests were answered, and with all sorts of answers.
        statuses.Count.ShouldBeGreaterThan(8);
        statuses.GetValueOrDefault(0).ShouldBeLessThan(Requests / 3);
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/shop")).ShouldBe(System.Net.HttpStatusCode.OK);
    }

    private static byte[] Make(Random random, bool admin, string? token)
    {
        var targets = admin ? AdminTargets : Targets;
        var target = targets[random.Next(targets.Length)];
        var method = Methods[random.Next(Methods.Length)];
        var body = Bodies[random.Next(Bodies.Length)];
        var type = Types[random.Next(Types.Length)];
        target = random.Next(3) == 0 ? target.Insert(random.Next(target.Length + 1), Spice[random.Next(Spice.Length)]) : target;
        var head = new StringBuilder($"{method} {target} HTTP/1.{(random.Next(12) == 0 ? 0 : 1)}\r\n");
        head.Append(random.Next(15) == 0 ? "" : $"Host: {(random.Next(12) == 0 ? Spice[random.Next(Spice.Length)] : "localhost")}\r\n");
        head.Append("Connection: close\r\n");
        head.Append(random.Next(2) == 0 ? "Accept: text/html\r\n" : "")
            .Append(random.Next(4) == 0 ? "Sec-Fetch-Site: same-origin\r\nOrigin: http://localhost\r\n" : "");
        head.Append(token is null ? "" : $"Authorization: Bearer {token}\r\n")
            .Append(admin && random.Next(3) == 0 ? "X-Wary-Console: 1\r\nIf-Match: *\r\n" : "");
        head.Append(target.Contains("check", StringComparison.Ordinal)
            ? $"X-Original-URI: {Targets[random.Next(Targets.Length)]}{(random.Next(2) == 0 ? Spice[random.Next(Spice.Length)] : "")}\r\n" : "");
        if (method is not ("GET" or "HEAD") || random.Next(10) == 0)
        {
            head.Append(System.Globalization.CultureInfo.InvariantCulture, $"Content-Type: {type}\r\n");
            head.Append(random.Next(8) == 0 ? "Transfer-Encoding: chunked\r\n"
                : $"Content-Length: {(random.Next(10) == 0 ? random.Next(0, 100_000) : Encoding.UTF8.GetByteCount(body))}\r\n");
        }
        else
        {
            body = "";
        }

        var bytes = Encoding.UTF8.GetBytes(head.Append("\r\n").Append(body).ToString()).ToList();
        for (var n = random.Next(0, 3); n > 0 && bytes.Count > 0; n--)
        {
            var at = random.Next(bytes.Count);
            switch (random.Next(4))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes.InsertRange(at, Encoding.UTF8.GetBytes(Spice[random.Next(Spice.Length)]));
                    break;
                case 2:
                    bytes.RemoveRange(at, Math.Min(random.Next(1, 12), bytes.Count - at));
                    break;
                default:
                    bytes.InsertRange(at, bytes.GetRange(at, Math.Min(random.Next(1, 40), bytes.Count - at)));
                    break;
            }
        }

        return [.. bytes];
    }

    /// <summary>Sends, and reads until the other side closes or has nothing more to say.</summary>
    private static async Task<string> SendAsync(string address, byte[] request, CancellationToken cancellationToken)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancellationToken);
        // Who is asked for more than was sent waits for it; nobody sends it.
        patience.CancelAfter(TimeSpan.FromSeconds(1.5));
        using var socket = new Socket(SocketType.Stream, ProtocolType.Tcp);
        var answer = new MemoryStream();
        try
        {
            await socket.ConnectAsync(new Uri(address).Host, new Uri(address).Port, patience.Token);
            await socket.SendAsync(request, patience.Token);
            var buffer = new byte[32 * 1024];
            int read;
            while ((read = await socket.ReceiveAsync(buffer, patience.Token)) > 0 && answer.Length < 1 << 20)
            {
                answer.Write(buffer, 0, read);
            }
        }
        catch (Exception fault) when (fault is SocketException or OperationCanceledException)
        {
            // What came so far is the answer.
        }

        return Encoding.UTF8.GetString(answer.ToArray());
    }
}
