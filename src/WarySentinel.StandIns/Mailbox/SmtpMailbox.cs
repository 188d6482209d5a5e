using System.Collections.Concurrent;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Encodings.Web;
using MimeKit;

namespace WarySentinel.StandIns.Mailbox;

/// <summary>A letter that came in.</summary>
public sealed record Letter(
    int Number, DateTimeOffset At, string From, IReadOnlyList<string> To, string Subject, string Text, string? Html, string MessageId,
    IReadOnlyList<string> Headers);

/// <summary>What goes wrong with a letter, as it does with real servers.</summary>
public enum MailMishap
{
    /// <summary>Nothing.</summary>
    None,
    /// <summary>Nobody has that address (550 5.1.1).</summary>
    NoSuchMailbox,
    /// <summary>It is not taken for now (451).</summary>
    TryLater,
    /// <summary>The line breaks when the letter was taken, before that is said.</summary>
    BreaksAfter,
    /// <summary>The line breaks in the middle of the letter.</summary>
    BreaksWithin,
}

/// <summary>A mail server that keeps what it is given and shows it on a page: SMTP (RFC 5321) without accounts or TLS.</summary>
public sealed class SmtpMailbox : IAsyncDisposable
{
    private const int MostLetterBytes = 4 << 20;
    private readonly ConcurrentQueue<Letter> letters = new();
    private readonly TcpListener listener;
    private readonly CancellationTokenSource end = new();
    private readonly Task accepting;
    private int count;

    /// <summary>Listens on a port of this machine.</summary>
    public SmtpMailbox(int port)
    {
        listener = new TcpListener(IPAddress.Loopback, port);
        listener.Start();
        accepting = AcceptAsync();
    }

    /// <summary>Says what goes wrong with a letter to an address.</summary>
    public Func<string, MailMishap> Mishap { get; set; } = _ => MailMishap.None;

    /// <summary>How long it takes to think about each letter.</summary>
    public Func<TimeSpan> Thinks { get; set; } = () => TimeSpan.Zero;

    /// <summary>Everything that came in, oldest first.</summary>
    public IReadOnlyList<Letter> Letters => [.. letters];

    /// <summary>A site that shows the letters.</summary>
    public WebApplication BuildSite(string listen)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(listen).ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
        builder.Logging.ClearProviders();
        var app = builder.Build();
        app.MapGet("/messages.json", () => Results.Json(Letters));
        app.MapGet("/count", (string to) => Results.Text(letters.Count(l => l.To.Contains(to)).ToString(CultureInfo.InvariantCulture)));
        app.MapGet("/", () => Results.Text(Page(), "text/html", Encoding.UTF8));
        return app;
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (end.IsCancellationRequested)
        {
            return;
        }

        await end.CancelAsync();
        listener.Stop();
        await accepting;
    }

    private async Task AcceptAsync()
    {
        try
        {
            while (true)
            {
                var client = await listener.AcceptTcpClientAsync(end.Token);
                _ = Task.Run(() => ServeAsync(client));
            }
        }
        catch (Exception fault) when (fault is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // The mailbox is closed.
        }
    }

    private async Task ServeAsync(TcpClient client)
    {
        using (client)
        {
            var stream = client.GetStream();
            using var reader = new StreamReader(stream, Encoding.Latin1);
            await using var writer = new StreamWriter(stream, Encoding.Latin1) { NewLine = "\r\n", AutoFlush = true };
            try
            {
                await writer.WriteLineAsync("220 mailbox ready");
                var (from, to) = ("", new List<string>());
                while (await reader.ReadLineAsync(end.Token) is { } line)
                {
                    var word = line.Split(' ', ':')[0].ToUpperInvariant();
                    switch (word)
                    {
                        case "EHLO":
                            await writer.WriteLineAsync("250-mailbox");
                            await writer.WriteLineAsync("250 8BITMIME");
                            break;
                        case "MAIL":
                            from = Address(line);
                            to.Clear();
                            await writer.WriteLineAsync("250 ok");
                            break;
                        case "RCPT":
                            var mishap = Mishap(Address(line));
                            to.Add(Address(line));
                            await writer.WriteLineAsync(
                                mishap switch
                                {
                                    MailMishap.NoSuchMailbox => "550 5.1.1 No such mailbox here",
                                    MailMishap.TryLater => "451 4.7.1 Try again later",
                                    _ => "250 ok",
                                });
                            break;
                        case "DATA":
                            await writer.WriteLineAsync("354 go on");
                            var trouble = to.Select(Mishap).FirstOrDefault(m => m != MailMishap.None);
                            if (trouble == MailMishap.BreaksWithin)
                            {
                                await reader.ReadLineAsync(end.Token);
                                return;
                            }

                            var body = await BodyAsync(reader);
                            await Task.Delay(Thinks(), end.Token);
                            Keep(from, to, body);
                            await Task.Delay(Thinks(), end.Token);
                            if (trouble == MailMishap.BreaksAfter)
                            {
                                return;
                            }

                            await writer.WriteLineAsync("250 kept");
                            break;
                        case "QUIT":
                            await writer.WriteLineAsync("221 bye");
                            return;
                        case "HELO" or "RSET" or "NOOP":
                            await writer.WriteLineAsync("250 ok");
                            break;
                        default:
                            await writer.WriteLineAsync("502 not known");
                            break;
                    }
                }
            }
            catch (Exception fault) when (fault is IOException or OperationCanceledException)
            {
                // The other side went away.
            }
        }
    }

    private async Task<byte[]> BodyAsync(StreamReader reader)
    {
        using var kept = new MemoryStream();
        while (await reader.ReadLineAsync(end.Token) is { } line && line != "." && kept.Length < MostLetterBytes)
        {
            kept.Write(Encoding.Latin1.GetBytes((line.StartsWith('.') ? line[1..] : line) + "\r\n"));
        }

        return kept.ToArray();
    }

    private void Keep(string from, IReadOnlyList<string> to, byte[] body)
    {
        using var mail = MimeMessage.Load(new MemoryStream(body));
        letters.Enqueue(new Letter(Interlocked.Increment(ref count), DateTimeOffset.UtcNow, from, [.. to], mail.Subject ?? "", mail.TextBody ?? "",
            mail.HtmlBody, mail.MessageId ?? "", [.. mail.Headers.Select(h => $"{h.Field}: {h.Value}")]));
    }

    private static string Address(string line)
    {
        var (open, close) = (line.IndexOf('<', StringComparison.Ordinal), line.IndexOf('>', StringComparison.Ordinal));
        return open >= 0 && close > open ? line[(open + 1)..close] : line.Split(':')[^1].Trim();
    }

    private string Page()
    {
        static string E(string text) => HtmlEncoder.Default.Encode(text);
        var all = string.Concat(Letters.Reverse().Select(l =>
            $"<article><h2>{E(l.Subject)}</h2><p>To {E(string.Join(", ", l.To))} · {l.At.ToString("HH:mm:ss", CultureInfo.InvariantCulture)}</p>"
            + (l.Html is null ? "" : $"<iframe sandbox title=\"As HTML\" srcdoc=\"{E(l.Html)}\"></iframe>")
            + $"<details{(l.Html is null ? " open" : "")}><summary>As plain text</summary><pre>{E(l.Text)}</pre></details></article>"));
        return "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><title>Mailbox</title><style>"
            + "body{font:16px/1.5 system-ui;max-width:720px;margin:2em auto;padding:0 1em}article{border-top:1px solid #ccc}"
            + "pre{white-space:pre-wrap}h2{margin-bottom:0}"
            + "iframe{width:100%;height:460px;border:1px solid #ccc;border-radius:8px}</style>"
            + $"<h1>Mailbox</h1>{(all.Length == 0 ? "<p>Nothing has come in yet.</p>" : all)}</html>";
    }
}
