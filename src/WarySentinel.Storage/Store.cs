using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.People;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Catalogue;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Somebody else changed the store since the snapshot was read; read it again and retry.</summary>
public sealed class StoreMovedException() : Exception("The store was changed by another node.");

/// <summary>What a policy is built from, at one revision of the store.</summary>
public sealed record StoredPolicy(
    long Revision, IReadOnlyList<Item> Items, IReadOnlyList<Gate> Gates, IReadOnlyList<Standing> Standings, SiteSettings Settings, PolicyExtras Extras,
    IReadOnlyList<StoredFault> Faults);

/// <summary>What the audit trail is to say of something that changes no policy.</summary>
public sealed record AuditNote(string By, string Action, string Subject, string? After = null);

/// <summary>An entry of the audit trail.</summary>
public sealed record AuditEntry(long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After, string? Detail);

/// <summary>Everything that is kept. Every change is one transaction with its audit entry.</summary>
public sealed partial class Store(Func<StoreContext> open, TimeProvider time)
{
    private const string Revision = "revision";
    private const string SessionsEnded = "sessions-ended";
    private const string Settings = "settings";
    private const int Chunk = 2000;

    /// <summary>Opens a store on SQLite or PostgreSQL.</summary>
    /// <param name="provider"><c>sqlite</c> or <c>postgres</c>.</param>
    /// <param name="connection">A connection string of that provider.</param>
    /// <param name="time">The clock.</param>
    public static Store Open(string provider, string connection, TimeProvider time)
    {
        if (provider == "postgres")
        {
            var postgres = new DbContextOptionsBuilder<PostgresContext>().UseNpgsql(connection).Options;
            return new Store(() => new PostgresContext(postgres), time);
        }

        var built = new Microsoft.Data.Sqlite.SqliteConnectionStringBuilder(connection) { ForeignKeys = true, DefaultTimeout = 30 };
        var sqlite = new DbContextOptionsBuilder<SqliteContext>().UseSqlite(built.ToString()).Options;
        return new Store(() => new SqliteContext(sqlite), time);
    }

    /// <summary>The number of changes so far.</summary>
    public async Task<long> RevisionAsync(CancellationToken stop = default) => (await RevisionsAsync(stop)).Policy;

    /// <summary>The number of changes so far, and the number of sessions ended so far: what other machines follow.</summary>
    public async Task<(long Policy, long Sessions)> RevisionsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var marks = await db.Marks.AsNoTracking().Where(m => m.Name == Revision || m.Name == SessionsEnded).ToDictionaryAsync(m => m.Name, m => m.Number, stop);
        return (marks.GetValueOrDefault(Revision), marks.GetValueOrDefault(SessionsEnded));
    }

    /// <summary>Reads what a policy is built from, all of one moment.</summary>
    public async Task<StoredPolicy> LoadPolicyAsync(CancellationToken stop = default)
    {
        await using var db = open();
        await using var one = await db.Database.BeginTransactionAsync(System.Data.IsolationLevel.Serializable, stop);
        var revision = await RevisionOf(db, stop);
        return await new PolicyReader(db).ReadAsync(revision, stop);
    }

    /// <summary>Stores an edit with its audit entry, all or nothing, and gives the new revision.</summary>
    /// <param name="edit">What to store.</param>
    /// <param name="by">Who did it.</param>
    /// <param name="expected">The revision that the edit was made against; null to store on any.</param>
    /// <param name="progress">Told the number of items stored so far.</param>
    /// <param name="stop">Cancels; nothing is stored then.</param>
    /// <exception cref="StoreMovedException">The store has another revision by now.</exception>
    public async Task<long> ApplyAsync(Edit edit, string by, long? expected = null, IProgress<int>? progress = null, CancellationToken stop = default)
    {
        await using var db = open();
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        await using var one = await db.Database.BeginTransactionAsync(stop);
        var revision = await BumpAsync(db, expected, stop);
        foreach (var change in edit.Changes)
        {
            await ApplyAsync(db, change, progress, stop);
        }

        AddNotes(db, edit, by);
        await SaveAsync(db, stop);
        await one.CommitAsync(stop);
        return revision;
    }

    private void AddNote(StoreContext db, AuditNote? note)
    {
        if (note is not null)
        {
            db.Audit.Add(new AuditRow { At = time.GetUtcNow(), By = note.By, Action = note.Action, Subject = note.Subject, After = note.After });
        }
    }

    private void AddNotes(StoreContext db, Edit edit, string by)
    {
        foreach (var entry in edit.Notes.Prepend(edit))
        {
            db.Audit.Add(new AuditRow
            {
                At = time.GetUtcNow(), By = by, Action = entry.Action, Subject = entry.Subject, Before = entry.Before, After = entry.After,
                Detail = entry.Detail,
            });
        }
    }

    /// <summary>The audit trail, newest first.</summary>
    /// <param name="before">Only those before this one.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="subject">Only about this.</param>
    /// <param name="action">Only actions that begin so, such as <c>gate.</c>.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<AuditEntry>> AuditAsync(
        long? before, int most, string? subject = null, string? action = null, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Audit.AsNoTracking()
            .Where(a => (before == null || a.Id < before) && (subject == null || a.Subject == subject) && (action == null || a.Action.StartsWith(action)))
            .OrderByDescending(a => a.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(a => new AuditEntry(a.Id, a.At, a.By, a.Action, a.Subject, a.Before, a.After, a.Detail))];
    }

    /// <summary>The framework's data-protection keys.</summary>
    public IReadOnlyList<string> ProtectionKeys()
    {
        using var db = open();
        return [.. db.Keys.AsNoTracking().Select(k => k.Xml)];
    }

    /// <summary>Keeps a data-protection key.</summary>
    public void KeepProtectionKey(string name, string xml)
    {
        using var db = open();
        db.Keys.Add(new KeyRow { Name = name, Xml = xml });
        db.SaveChanges();
    }

    private static async Task<long> RevisionOf(StoreContext db, CancellationToken stop) =>
        await db.Marks.AsNoTracking().Where(m => m.Name == Revision).Select(m => m.Number).FirstOrDefaultAsync(stop);

    private static async Task<long> BumpAsync(StoreContext db, long? expected, CancellationToken stop)
    {
        // The row is written first: it holds every other writer until this transaction ends.
        var moved = await db.Marks.Where(m => m.Name == Revision && (expected == null || m.Number == expected))
            .ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, m => m.Number + 1), stop);
        if (moved == 0)
        {
            if (await db.Marks.AnyAsync(m => m.Name == Revision, stop))
            {
                throw new StoreMovedException();
            }

            db.Marks.Add(new MarkRow { Name = Revision, Number = 1 });
            await SaveAsync(db, stop);
        }

        return await RevisionOf(db, stop);
    }

    private static async Task SaveAsync(StoreContext db, CancellationToken stop)
    {
        db.ChangeTracker.DetectChanges();
        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }

    private static async Task ApplyAsync(StoreContext db, Change change, IProgress<int>? progress, CancellationToken stop)
    {
        switch (change)
        {
            case Change.GatePut put:
                await PutAsync(db, GateRow.Of(put.Gate), stop, put.Gate.Key);
                break;
            case Change.GateDropped dropped:
                await db.Gates.Where(g => g.Key == dropped.Key).ExecuteDeleteAsync(stop);
                break;
            case Change.ItemsPut put:
                await PutItemsAsync(db, put.Items, progress, stop);
                break;
            case Change.ItemsDropped dropped:
                foreach (var chunk in dropped.Ids.Select(id => id.ToString()).Chunk(Chunk))
                {
                    var names = chunk.ToList();
                    await db.Items.Where(i => names.Contains(i.Id)).ExecuteDeleteAsync(stop);
                }

                break;
            case Change.StandingPut put:
                await PutAsync(db, StandingRow.Of(put.Standing), stop, (int)put.Standing.Kind, put.Standing.Key);
                break;
            case Change.StandingDropped dropped:
                await db.Standings.Where(s => s.Kind == (int)dropped.Kind && s.Key == dropped.Key).ExecuteDeleteAsync(stop);
                break;
            case Change.SettingsPut put:
                await PutAsync(db, new MarkRow { Name = Settings, Text = JsonSerializer.Serialize(put.Settings) }, stop, Settings);
                break;
            case Change.MemberPut put:
                await PutMemberAsync(db, put.Member, stop);
                break;
            case Change.SharedPasswordPut put:
                await PutAsync(db, SharedPasswordRow.Of(put.Password), stop, put.Password.Id);
                if (put.Password.WithdrawnAt is not null)
                {
                    await db.Unlocks.Where(u => u.PasswordId == put.Password.Id).ExecuteDeleteAsync(stop);
                }
                else if (put.Password.Until is { } end)
                {
                    // What it unlocked ends with it.
                    await db.Unlocks.Where(u => u.PasswordId == put.Password.Id && u.Until > end)
                        .ExecuteUpdateAsync(set => set.SetProperty(u => u.Until, end), stop);
                }

                break;
            case Change.TokenPut put:
                var token = put.Token;
                await PutAsync(
                    db,
                    new TokenRow
                    {
                        Id = token.Id, Label = token.Label, Digest = token.Digest, Scopes = [.. token.Scopes], MemberId = token.Member,
                        CreatedAt = token.CreatedAt, Until = token.Until,
                    },
                    stop,
                    token.Id);
                break;
            case Change.TokenDropped dropped:
                await db.Sessions.Where(s => s.MadeByToken == dropped.Id).ExecuteDeleteAsync(stop);
                await db.Tokens.Where(t => t.Id == dropped.Id).ExecuteDeleteAsync(stop);
                break;
            case Change.RedirectPut put:
                await PutAsync(db, RedirectRow.Of(put.Redirect), stop, put.Redirect.Key);
                break;
            case Change.RedirectDropped dropped:
                await db.Redirects.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(stop);
                break;
            case Change.MessageQueued queued:
                var message = queued.Message;
                await PutAsync(
                    db,
                    new Delivery.OutboxRow
                    {
                        Id = message.Id, To = message.To, Subject = message.Subject, Body = message.Body, CreatedAt = message.At,
                        NextTryAt = message.At
                    },
                    stop,
                    message.Id);
                break;
            case Change.SessionsEnded ended:
                await db.Sessions.Where(v => db.Sessions.Any(s => s.Id == v.MadeBySession && s.MemberId == ended.Member)).ExecuteDeleteAsync(stop);
                await db.Sessions.Where(s => s.MemberId == ended.Member).ExecuteDeleteAsync(stop);
                break;
            default:
                throw new InvalidOperationException($"The store has no place for {change.GetType().Name}.");
        }
    }

    private static async Task PutAsync<TRow>(StoreContext db, TRow row, CancellationToken stop, params object[] key)
        where TRow : class
    {
        TRow? old;
        try
        {
            old = await db.FindAsync<TRow>(key, stop);
        }
        catch (Exception fault) when (PolicyReader.IsUnreadable(fault))
        {
            // What stands there cannot be read; it is written over as it is.
            db.ChangeTracker.Clear();
            db.Entry(row).State = EntityState.Modified;
            await SaveAsync(db, stop);
            return;
        }

        if (old is not null)
        {
            db.Entry(old).CurrentValues.SetValues(row);
        }
        else
        {
            db.Add(row);
        }

        await SaveAsync(db, stop);
    }

    private static async Task PutItemsAsync(StoreContext db, IReadOnlyList<Item> items, IProgress<int>? progress, CancellationToken stop)
    {
        var done = 0;
        foreach (var chunk in items.Chunk(Chunk))
        {
            var names = chunk.Select(i => i.Id.ToString()).ToList();
            var there = (await db.Items.AsNoTracking().Where(i => names.Contains(i.Id)).Select(i => i.Id).ToListAsync(stop)).ToHashSet();
            foreach (var item in chunk)
            {
                var row = ItemRow.Of(item);
                db.Entry(row).State = there.Contains(row.Id) ? EntityState.Modified : EntityState.Added;
            }

            await db.SaveChangesAsync(stop);
            db.ChangeTracker.Clear();
            progress?.Report(done += chunk.Length);
        }
    }

    private static async Task PutMemberAsync(StoreContext db, Member member, CancellationToken stop)
    {
        var old = await db.Members.AsNoTracking().AnyAsync(m => m.Id == member.Id, stop);
        await db.Grants.Where(g => g.MemberId == member.Id).ExecuteDeleteAsync(stop);
        var row = MemberRow.Of(member);
        db.Entry(row).State = old ? EntityState.Modified : EntityState.Added;
        foreach (var grant in row.Grants)
        {
            db.Entry(grant).State = EntityState.Added;
        }

        await db.SaveChangesAsync(stop);
        db.ChangeTracker.Clear();
    }
}
