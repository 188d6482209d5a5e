using WarySentinel.StandIns.Authority;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.StandIns.PageCache;
using WarySentinel.StandIns.Payments;
using WarySentinel.StandIns.Shop;

// The simulated outside world of the demo and the tests: a shop, a mail server, a payment processor, a page cache that is set
// up badly, a certificate authority.
var arguments = args.ToList();
var data = Value("--data") ?? "demo";
try
{
    using var quotes = Value("--quotes") is { } api ? new ShopQuotes(api, Value("--quotes-token") ?? "") : null;
    var running = new List<Task> { ShopSite.Build(Path.Combine(data, "shop"), Value("--shop") ?? "http://127.0.0.1:7410", quotes).RunAsync() };
    await using var mailbox = Value("--smtp") is { } port ? new SmtpMailbox(int.Parse(port, System.Globalization.CultureInfo.InvariantCulture)) : null;
    if (mailbox is not null)
    {
        running.Add(mailbox.BuildSite(Value("--mailbox") ?? "http://127.0.0.1:7412").RunAsync());
    }

    if (Value("--cache") is { } cache)
    {
        running.Add(HeedlessCache.Build(Value("--site") ?? "http://127.0.0.1:7400", cache).RunAsync());
    }

    using var payments = Value("--hook") is { } hook ? new PaymentDesk(hook, Value("--hook-secret") ?? "") : null;
    if (payments is not null)
    {
        running.Add(PaymentSite.Build(payments, Value("--payments") ?? "http://127.0.0.1:7411").RunAsync());
    }

    using var authority = Value("--authority") is not null
        ? new AcmeAuthority(int.Parse(Value("--proofs") ?? "80", System.Globalization.CultureInfo.InvariantCulture), TimeSpan.FromDays(90)) : null;
    if (authority is not null)
    {
        await File.WriteAllTextAsync(Value("--authority-root") ?? "authority.pem", authority.Root.ExportCertificatePem());
        running.Add(AcmeSite.Build(authority, int.Parse(Value("--authority")!, System.Globalization.CultureInfo.InvariantCulture)).RunAsync());
    }

    await await Task.WhenAny(running);
    return 0;
}
catch (Exception fault) when (fault is IOException or System.Net.Sockets.SocketException)
{
    await Console.Error.WriteLineAsync("stand-ins: " + fault.Message);
    return 2;
}

string? Value(string name) => arguments.IndexOf(name) is >= 0 and var at && at + 1 < arguments.Count ? arguments[at + 1] : null;
