using MailKit;
using MailKit.Net.Imap;
using MailKit.Search;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>
/// Reads reports of letters that reached nobody (RFC 3464) from a mailbox by IMAP (RFC 9051). It opens the folder for reading only and changes nothing in
/// it: how far it has read is kept here, by the folder's own numbers (UIDVALIDITY and UID).
/// </summary>
public sealed class BounceBox(Store store, Bouncing bouncing, ServiceOptions options, TimeProvider time, ILogger<BounceBox> log)
{
    private const string Turn = "bounces";
    private const string ReadAt = "bounces-read-at";
    private const uint LargestReportBytes = 1 << 20;
    private static readonly TimeSpan Every = TimeSpan.FromMinutes(1);

    /// <summary>Whether there is a mailbox, and a minute has passed.</summary>
    public async Task<bool> IsDueAsync(CancellationToken stop) =>
        options.BounceMailbox.Length > 0 && await store.IsTurnFreeAsync(Turn, time.GetUtcNow() - Every, stop);

    /// <summary>Reads what is new, once a minute, on one machine.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        if (options.BounceMailbox.Length > 0 && await store.TakeTurnAsync(Turn, time.GetUtcNow() - Every, stop))
        {
            await ReadAsync(stop);
        }
    }

    /// <summary>When it was last read to the end; null where it never was.</summary>
    public async Task<DateTimeOffset?> ReadAtAsync(CancellationToken stop) =>
        options.BounceMailbox.Length > 0 && await store.NumberAsync(ReadAt, stop) is > 0 and var ticks ? new DateTimeOffset(ticks, TimeSpan.Zero)
        : null;

    /// <summary>Opens the folder and gives its name and how many messages are in it. Throws what the server, or the way to it, says.</summary>
    public async Task<(string Name, int Count)> LookAsync(CancellationToken stop)
    {
        using var imap = new ImapClient();
        var folder = await OpenAsync(imap, stop);
        var found = (folder.FullName, folder.Count);
        await imap.DisconnectAsync(true, stop);
        return found;
    }

    /// <summary>Reads what is new; gives how many addresses were marked.</summary>
    public async Task<int> ReadAsync(CancellationToken stop)
    {
        using var imap = new ImapClient();
        var folder = await OpenAsync(imap, stop);
        var (mark, marked) = (MarkOf(folder), 0);
        var read = await store.NumberAsync(mark, stop);
        // The folder was made anew where its validity is another one: its numbers begin again (RFC 9051 §2.3.1.1).
        var last = (uint)(read >> 32) == folder.UidValidity ? (uint)read : 0;
        // What is older than the letters that are kept names none of them.
        var query = SearchQuery.DeliveredAfter(time.GetUtcNow().AddDays(-options.LetterDays).UtcDateTime);
        var all = last == uint.MaxValue ? [] : await folder.SearchAsync(new UniqueIdRange(new UniqueId(last + 1), UniqueId.MaxValue), query, stop);
        foreach (var some in all.Where(u => u.Id > last).OrderBy(u => u.Id).Chunk(50))
        {
            var sizes = (await folder.FetchAsync(some, MessageSummaryItems.UniqueId | MessageSummaryItems.Size, stop))
                .ToDictionary(s => s.UniqueId.Id, s => s.Size);
            foreach (var uid in some)
            {
                marked += sizes.TryGetValue(uid.Id, out var bytes) && bytes <= LargestReportBytes ? await TakeAsync(folder, uid, stop) : 0;
            }

            await store.KeepNumberAsync(mark, ((long)folder.UidValidity << 32) | some[^1].Id, stop);
        }

        await store.KeepNumberAsync(ReadAt, time.GetUtcNow().UtcTicks, stop);
        await imap.DisconnectAsync(true, stop);
        return marked;
    }

    private async Task<int> TakeAsync(IMailFolder folder, UniqueId uid, CancellationToken stop)
    {
        try
        {
            using var mail = await folder.GetMessageAsync(uid, stop);
            var found = await bouncing.TakeAsync(mail, "mail", stop);
            if (found.Strange.Count > 0)
            {
                log.LogWarning("A report of {Addresses} names no letter that went there; it is not believed", string.Join(", ", found.Strange));
            }

            return found.Marked.Count;
        }
        catch (Exception fault) when (fault is FormatException or MessageNotFoundException)
        {
            // Whatever it is, it is no report; or somebody has just taken it away.
            return 0;
        }
    }

    private async Task<IMailFolder> OpenAsync(ImapClient imap, CancellationToken stop)
    {
        var server = new MailServer(options.BounceMailbox, options.BounceToken);
        await server.OpenAsync(imap, stop);
        await server.LogInAsync(imap, stop);
        var folder = server.Folder.Length == 0 ? imap.Inbox ?? throw new FolderNotFoundException("INBOX") : await imap.GetFolderAsync(server.Folder, stop);
        await folder.OpenAsync(FolderAccess.ReadOnly, stop);
        return folder;
    }

    private string MarkOf(IMailFolder folder)
    {
        var server = new MailServer(options.BounceMailbox, "");
        return $"bounces:{server.UserName}@{server.Place.Host}/{folder.FullName}";
    }
}

/// <summary>Takes what a report says of a letter.</summary>
public sealed class Bouncing(Store store)
{
    /// <summary>
    /// Marks the addresses of letters that reached nobody. Anybody can write a report: only one that brings back the name of a letter, which none but its
    /// readers know, is believed, and only of the address that the letter went to.
    /// </summary>
    public async Task<Contract.Letters.BouncesView> TakeAsync(MimeKit.MimeMessage report, string by, CancellationToken stop)
    {
        var (marked, passing, strange) = (new List<string>(), new List<string>(), new List<string>());
        var letter = Bounces.LetterIn(report);
        foreach (var bounce in Bounces.Read(report))
        {
            if (!bounce.IsGone)
            {
                passing.Add(bounce.Address);
            }
            else if (letter is { } id && await store.ReturnedAsync(id, bounce.Status, bounce.Said, by, stop) is { } to)
            {
                marked.Add(to);
            }
            else
            {
                strange.Add(bounce.Address);
            }
        }

        return new Contract.Letters.BouncesView([.. marked.Distinct()], [.. passing.Distinct()], [.. strange.Distinct()]);
    }
}
