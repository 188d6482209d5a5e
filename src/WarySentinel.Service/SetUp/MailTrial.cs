using WarySentinel.Contract.SetUp;
using WarySentinel.Core;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.SetUp;

/// <summary>
/// A letter that proves that letters arrive: whoever reads it follows its link, and the audit trail remembers. The link opens nothing and tells nothing; it is
/// good for nobody but the letter it stands in.
/// </summary>
public sealed class MailTrial(
    VisitorReader visitors, Refusals refusals, ILetters letters, Store store, PeopleLane people, Secrets secrets, ServiceOptions options, TimeProvider time)
{
    private const string Sent = "mail.trial";
    private const string Arrived = "mail.arrived";
    private const string Path = "/letters/arrived";
    private const byte TicketPurpose = 9;
    private const int MostAtOnce = 20;
    private static readonly TimeSpan Apart = TimeSpan.FromMinutes(1);

    /// <summary>Sends it; a problem where one has just been sent there, or no mail server is set.</summary>
    public async Task<Problem?> SendAsync(string to, string by)
    {
        if (options.Smtp.Length == 0)
        {
            return Problem.In("to", "setup-no-mail");
        }

        if ((await store.AuditAsync(null, 1, to, Sent)) is [{ } last] && time.GetUtcNow() - last.At < Apart)
        {
            return Problem.In("to", "setup-letter-soon", to);
        }

        var id = Guid.NewGuid();
        var link = letters.PageAt(Path) + "?link=" + secrets.TicketOf(id, TicketPurpose);
        var message = letters.Write("mail-trial", new LetterReader(to), ("link", link));
        await people.ChangeAsync(new Edit<Guid>(new Edit(Sent, to, [message], null, id.ToString("N")), id), by);
        return null;
    }

    /// <summary>How it stands with the letter to somebody.</summary>
    public async Task<SetUpCheckView> StandsAsync(string? to, CancellationToken stop)
    {
        var trials = await store.AuditAsync(null, 1, to is { Length: > 0 } ? to : null, Sent, stop);
        if (trials is not [var sent])
        {
            return new SetUpCheckView("letter", "waiting", Words.Of("setup.letter-none"), Words.Of("setup.letter-none-mend"));
        }

        if (await HasArrivedAsync(sent, stop))
        {
            return new SetUpCheckView("letter", "good", Words.Of("setup.letter", sent.Subject));
        }

        var letter = (await store.MessagesAsync(MostAtOnce, null, sent.Subject, stop: stop)).FirstOrDefault(m => m.Kind == "mail-trial");
        return letter is { State: LetterState.GivenUp }
            ? new SetUpCheckView("letter", "wrong", Words.Of("setup.letter-given-up", sent.Subject, letter.Fault), Words.Of("setup.letter-given-up-mend"))
            : new SetUpCheckView("letter", "waiting", Words.Of("setup.letter-waiting", sent.Subject), Words.Of("setup.letter-waiting-mend"));
    }

    /// <summary>Whether somebody has read that letter, or a later one to the same address.</summary>
    private async Task<bool> HasArrivedAsync(AuditEntry sent, CancellationToken stop) =>
        (await store.AuditAsync(null, 1, sent.Subject, Arrived, stop)) is [var read] && read.At >= sent.At;

    /// <summary>Maps the page that the link leads to. It is looked at without harm as often as one likes: the first time is remembered.</summary>
    public void Map(IEndpointRouteBuilder site) => site.MapGet(options.AccountPrefix + Path, ShowAsync).RequireRateLimiting(RateLimits.Proofs);

    private async Task ShowAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var sent = secrets.TryReadTicket(http.Request.Query["link"].ToString(), TicketPurpose, out var id)
            ? (await store.AuditAsync(null, MostAtOnce, null, Sent, http.RequestAborted)).FirstOrDefault(a => a.After == id.ToString("N")) : null;
        if (sent is not null && !await HasArrivedAsync(sent, http.RequestAborted))
        {
            await store.NoteAsync(new AuditNote(sent.Subject, Arrived, sent.Subject), http.RequestAborted);
        }

        await Page.WriteAsync<MessagePage>(http, sent is null ? StatusCodes.Status404NotFound : StatusCodes.Status200OK, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new MessageModel(
                PageWords.Of(sent is null ? "join.closed-title" : "arrived.title"), [PageWords.Of(sent is null ? "link.closed" : "arrived.text")]),
        });
    }
}
