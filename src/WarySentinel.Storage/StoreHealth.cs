using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using WarySentinel.Core.Facts;
using WarySentinel.Storage.Gates;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage;

/// <summary>How the store is.</summary>
public enum StoreHealth
{
    /// <summary>It reads and writes.</summary>
    Good,
    /// <summary>It has no room left to write.</summary>
    Full,
    /// <summary>It does not answer.</summary>
    Silent,
}

/// <summary>Whether the store can be written.</summary>
public sealed partial class Store
{
    private const string Probe = "probe";
    private static readonly TimeSpan LongestLook = TimeSpan.FromSeconds(2);

    // SQLITE_IOERR_WRITE, _FSYNC, _TRUNCATE, _SHMSIZE, _SHMMAP: what a full or broken disk gives beside SQLITE_FULL (sqlite.org/rescode.html).
    private static readonly int[] CannotWrite = [778, 1034, 1546, 4874, 5386];

    /// <summary>Whether something failed because there is no room left: on SQLite's disk, on PostgreSQL's (SQLSTATE 53100), in the data folder.</summary>
    public static bool IsFull(Exception? fault)
    {
        for (; fault is not null; fault = fault.InnerException)
        {
            if (fault is SqliteException sqlite && (sqlite.SqliteErrorCode == 13 || CannotWrite.Contains(sqlite.SqliteExtendedErrorCode))
                || fault is PostgresException { SqlState: PostgresErrorCodes.DiskFull }
                || fault is IOException { HResult: 28 or 122 })
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether something failed because the database could not be reached, or was held by somebody else for too long.</summary>
    public static bool IsSilent(Exception? fault)
    {
        for (; fault is not null; fault = fault.InnerException)
        {
            if (fault is CommitUnsureException)
            {
                return false;
            }

            if (fault is Microsoft.EntityFrameworkCore.Storage.RetryLimitExceededException or SqliteException { SqliteErrorCode: 5 or 6 }
                || (fault is NpgsqlException and not PostgresException) || (fault is PostgresException { IsTransient: true }))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether the store takes a write now: it is tried.</summary>
    public async Task<StoreHealth> HealthAsync(CancellationToken stop = default)
    {
        try
        {
            if (writers is not null && !await writers.WaitAsync(LongestLook, stop))
            {
                // A long import is being written just now.
                return StoreHealth.Good;
            }

            using var turn = new Turn(writers);
            await using var db = open();
            await db.Marks.Where(m => m.Name == Probe).ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, m => m.Number + 1), stop);
            return StoreHealth.Good;
        }
        catch (Exception fault) when (fault is not OperationCanceledException)
        {
            return IsFull(fault) ? StoreHealth.Full : StoreHealth.Silent;
        }
    }

    /// <summary>Drops what is stored of something that cannot be read, by kind and key; false where there is no such thing.</summary>
    public async Task<(bool Dropped, IReadOnlyList<News> News)> DropUnreadableAsync(string kind, string key, string by, CancellationToken stop = default)
    {
        return await WriteAsync(async writing => await DropUnreadableAsync(writing, kind, key, by, stop), stop);
    }

    private static async Task<bool> DropUnreadableAsync(Writing writing, string kind, string key, string by, CancellationToken stop)
    {
        var (db, news) = (writing.Db, writing.News);
        var dropped = kind switch
        {
            "gate" => await db.Gates.Where(g => g.Key == key).ExecuteDeleteAsync(stop),
            "item" => await db.Items.Where(i => i.Id == key).ExecuteDeleteAsync(stop),
            "group-rule" => await db.GroupRules.Where(r => r.Group == key).ExecuteDeleteAsync(stop),
            "menu" => await db.Definitions.Where(s => s.Key == key && s.Kind == (int)FactKind.Role).ExecuteUpdateAsync(
                set => set.SetProperty(s => s.Links, (string?)null), stop),
            "redirect" => await db.Redirects.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "fulfilment" => await db.Fulfilment.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "order-source" => await db.OrderSources.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "price" => await db.PriceLists.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "coupon" => await db.Coupons.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "cart" => await db.Carts.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "area" => await db.Areas.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "show" => await db.Shows.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "entry" => await db.Entries.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "page" => await db.Pages.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "texts" => await db.Texts.Where(r => r.Language == key).ExecuteDeleteAsync(stop),
            "section" => await db.Sections.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "hosted-page" => await db.HostedPages.Where(r => r.Key == key).ExecuteDeleteAsync(stop),
            "letter-template" when key.LastIndexOf('.') is > 0 and var dot =>
            await db.LetterTemplates.Where(t => t.Kind == key.Substring(0, dot) && t.Language == key.Substring(dot + 1)).ExecuteDeleteAsync(stop),
            "standing" when key.Split(':', 2) is [var number, var name] && int.TryParse(number, out var of) =>
            await db.Definitions.Where(s => s.Kind == of && s.Key == name).ExecuteDeleteAsync(stop),
            "standing" => await db.Definitions.Where(s => s.Key == key).ExecuteDeleteAsync(stop),
            "password" when Guid.TryParse(key, out var id) => await db.SharedPasswords.Where(p => p.Id == id).ExecuteDeleteAsync(stop),
            "settings" => await db.Marks.Where(m => m.Name == GateChanges.Settings).ExecuteDeleteAsync(stop),
            _ => 0,
        };
        if (dropped == 0)
        {
            return false;
        }

        var revision = await BumpAsync(db, null, stop);
        news.TellPolicy(revision);
        if (kind is "gate" or "password")
        {
            // What they unlocked goes with them.
            news.Tell(kind == "gate" ? Told.Gate : Told.Password, kind == "gate" ? key : Guid.Parse(key).ToString("N"));
        }

        writing.Note(new AuditNote(by, "mend.drop", $"{kind}:{key}"));
        return true;
    }
}
