using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage;

/// <summary>Somebody else changed what an edit was made against; read it again and retry.</summary>
public sealed class StoreMovedException() : Exception("The store was changed by somebody else.");

/// <summary>What was to be stored does not fit what is stored by now: nothing was stored.</summary>
public sealed class StoreRefusedException(Problem problem) : Exception(problem.Detail.ToString())
{
    /// <summary>Why.</summary>
    public Problem Problem => problem;
}

/// <summary>The database went away while it was storing: it may have stored, or not. Nobody does it again unasked.</summary>
public sealed class CommitUnsureException(Exception inner) : Exception("The database went away while it was storing.", inner);

/// <summary>What a policy is built from, at one revision of the store.</summary>
public sealed record StoredPolicy(
    long Revision, IReadOnlyList<Item> Items, IReadOnlyList<Gate> Gates, IReadOnlyList<FactDefinition> Definitions, SiteSettings Settings, PolicyParts Parts,
    IReadOnlyList<StoredFault> Faults);

/// <summary>Others hold a row that was to be stored, and whoever stored it would not wait for them: nothing was stored.</summary>
internal sealed class RowsHeldException(Exception inner) : Exception("Others hold a row that was to be stored.", inner);

/// <summary>What the audit trail is to say of something that changes no policy.</summary>
public sealed record AuditNote(string By, string Action, string Subject, string? After = null);

/// <summary>An entry of the audit trail.</summary>
public sealed record AuditEntry(long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After, string? Detail);

/// <summary>What came of storing an edit.</summary>
/// <param name="Revision">The revision of the policy by now; null where the edit was about people alone.</param>
/// <param name="News">What the change feed tells of it.</param>
public sealed record Stored(long? Revision, IReadOnlyList<News> News);

/// <summary>
/// Everything that is kept. Every change is one transaction with its audit entry and what the change feed tells of it. Each room of this
/// project reads its own tables and stores its own changes; here is what they share.
/// </summary>
public sealed partial class Store : IDisposable
{
    /// <summary>What has more changes has a transaction of its own: it takes a second and more, and who shares it would wait for as long.</summary>
    private const int MostTogether = 256;

    private const string Revision = "revision";
    private readonly Func<StoreContext> open;
    private readonly TimeProvider time;
    private readonly string connection;

    /// <summary>SQLite has one writer at a time; here its turn is waited for without being asked for again and again.</summary>
    private readonly SemaphoreSlim? writers;
    private readonly Together together;

    private Store(Func<StoreContext> open, TimeProvider time, string connection, bool oneWriter)
    {
        (this.open, this.time, this.connection) = (open, time, connection);
        writers = oneWriter ? new SemaphoreSlim(1, 1) : null;
        together = new Together(StoreAsync, oneWriter);
    }

    /// <summary>Opens a store on SQLite or PostgreSQL.</summary>
    /// <param name="provider"><c>sqlite</c> or <c>postgres</c>.</param>
    /// <param name="connection">A connection string of that provider.</param>
    /// <param name="time">The clock.</param>
    public static Store Open(string provider, string connection, TimeProvider time)
    {
        if (provider == "postgres")
        {
            var postgres = new PooledDbContextFactory<PostgresContext>(new DbContextOptionsBuilder<PostgresContext>()
                .UseNpgsql(Prepared(connection), npgsql => npgsql.EnableRetryOnFailure(3, TimeSpan.FromSeconds(1), null))
                .ConfigureWarnings(Unlooked).Options);
            return new Store(postgres.CreateDbContext, time, connection, false);
        }

        var built = new SqliteConnectionStringBuilder(connection) { ForeignKeys = true, DefaultTimeout = 30 }.ToString();
        var sqlite = new PooledDbContextFactory<SqliteContext>(
            new DbContextOptionsBuilder<SqliteContext>().UseSqlite(built).ConfigureWarnings(Unlooked).Options);
        return new Store(sqlite.CreateDbContext, time, built, true);
    }

    /// <summary>
    /// Whether the migrations make what the model says is looked at by a test: a first start would build the model anew for it, as a designer has it.
    /// </summary>
    private static void Unlooked(WarningsConfigurationBuilder warnings) => warnings.Ignore(RelationalEventId.PendingModelChangesWarning);

    /// <summary>
    /// A connection string of PostgreSQL under which statements are planned once for each connection, as planning costs more than most of them, and a
    /// connection is not reset when it is given back, as none of ours is ever set otherwise. What it says of either itself stands.
    /// </summary>
    public static string Prepared(string connection)
    {
        var settings = new NpgsqlConnectionStringBuilder(connection);
        // ContainsKey says which keys there can be, not which are there.
        var said = settings.Keys.Cast<string>().ToHashSet(StringComparer.OrdinalIgnoreCase);
        settings.MaxAutoPrepare = said.Contains("Max Auto Prepare") ? settings.MaxAutoPrepare : 100;
        settings.AutoPrepareMinUsages = said.Contains("Auto Prepare Min Usages") ? settings.AutoPrepareMinUsages : 2;
        settings.NoResetOnClose |= !said.Contains("No Reset On Close");
        return settings.ToString();
    }

    /// <summary>So many large edits about different people are stored at once with a gain.</summary>
    public int WritersAtOnce => writers is null ? 2 : 1;

    /// <inheritdoc/>
    public void Dispose()
    {
        writers?.Dispose();
        together.Dispose();
        textsAsked.Dispose();
    }

    /// <summary>Has the model of the tables made while something else goes on: it takes a while, once.</summary>
    public void Warm()
    {
        using var db = open();
        _ = db.Model;
    }

    /// <summary>The number of changes of the policy so far.</summary>
    public async Task<long> RevisionAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await RevisionOf(db, stop);
    }

    /// <summary>Reads what a policy is built from, all of one moment.</summary>
    public Task<StoredPolicy> LoadPolicyAsync(CancellationToken stop = default) => LoadPolicyAsync(null, stop);

    /// <summary>The same, with items that were read before, where nothing has changed since.</summary>
    public async Task<StoredPolicy> LoadPolicyAsync(EarlyItems? early, CancellationToken stop)
    {
        await using var db = open();
        return await db.Database.CreateExecutionStrategy().ExecuteAsync(async () =>
        {
            await using var one = await db.Database.BeginTransactionAsync(System.Data.IsolationLevel.Serializable, stop);
            var revision = await RevisionOf(db, stop);
            var stand = early is not null && await early.StandAsync(db.Database.GetDbConnection(), one.GetDbTransaction());
            return await new PolicyReader(db).ReadAsync(revision, stand ? early : null, stop);
        });
    }

    /// <summary>
    /// Stores an edit with its audit entry, all or nothing. One that changes the policy takes the next revision, one writer at a time; one about people
    /// alone waits for nobody but others about the same person.
    /// </summary>
    /// <param name="edit">What to store.</param>
    /// <param name="by">Who did it.</param>
    /// <param name="expected">The revision that the edit was made against; null to store on any.</param>
    /// <param name="progress">Told the number of items stored so far.</param>
    /// <param name="stop">Cancels a large edit while it is written; what is being committed is committed, whoever has left.</param>
    /// <exception cref="StoreMovedException">The store has another revision by now, or the member another version.</exception>
    /// <exception cref="StoreRefusedException">It does not fit what is stored by now.</exception>
    public async Task<Stored> ApplyAsync(
        Edit edit, string by, long? expected = null, IProgress<int>? progress = null, CancellationToken stop = default)
    {
        if (progress is null && Writers.All.IsGathered(edit))
        {
            if (edit.Changes.Count <= MostTogether)
            {
                return await together.StoreAsync(edit, by);
            }

            // Whoever leaves meanwhile leaves what was begun to be stored, here as there.
            stop = CancellationToken.None;
        }

        return await MarkingFaultsAsync(edit, () => WriteAsync(
            async writing =>
            {
                long? revision = edit.Changes.Any(c => c is Change.OfPolicy) ? await BumpAsync(writing.Db, expected, stop) : null;
                await WriteAsync(writing with { Progress = progress }, edit, by);
                if (revision is { } moved)
                {
                    writing.News.TellPolicy(moved);
                }

                return revision;
            },
            (revision, news) => new Stored(revision, news), stop));
    }

    /// <summary>Stores edits about different people in one transaction, all or none.</summary>
    /// <param name="batch">The edits.</param>
    /// <param name="patient">Whether rows are waited for, for as long as others hold them.</param>
    /// <exception cref="RowsHeldException">Others hold one of their rows.</exception>
    private Task<IReadOnlyList<Stored>> StoreAsync(
        IReadOnlyList<Together.WaitingEdit> batch, bool patient) => MarkingFaultsAsync(batch[0].Edit, () => WriteAsync(
        async writing =>
        {
            writing.Rows.Patient = patient;
            var each = new List<Stored>(batch.Count);
            foreach (var (edit, by) in batch)
            {
                var mine = new NewsList();
                await WriteAsync(writing with { News = mine }, edit, by);
                each.Add(new Stored(null, mine.All));
                writing.News.TellAll(mine);
            }

            return each;
        },
        IReadOnlyList<Stored> (each, _) => each, CancellationToken.None));

    private static async Task WriteAsync(Writing writing, Edit edit, string by)
    {
        foreach (var change in edit.Changes)
        {
            await writing.WriteAsync(change);
        }

        writing.Note(edit, by);
    }

    /// <summary>Says what a row means that is not as the edit took it to be.</summary>
    private static async Task<T> MarkingFaultsAsync<T>(Edit edit, Func<Task<T>> work)
    {
        try
        {
            return await work();
        }
        catch (DbUpdateConcurrencyException)
        {
            throw new StoreMovedException();
        }
        catch (Exception fault) when (Uniqueness.IsBroken(fault))
        {
            throw Uniqueness.Of(edit, fault);
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

    /// <summary>Writes something into the audit trail that changes nothing else.</summary>
    public Task NoteAsync(AuditNote note, CancellationToken stop = default) => WriteAsync(
        writing =>
        {
            writing.Note(note);
            return Task.FromResult(true);
        },
        stop);

    /// <summary>The framework's data-protection keys by their names.</summary>
    public IReadOnlyList<(string Name, string Xml)> ProtectionKeys()
    {
        using var db = open();
        return [.. db.Keys.AsNoTracking().ToList().Select(k => (k.Name, k.Xml))];
    }

    /// <summary>Keeps a data-protection key, in place of what was kept under its name.</summary>
    public void KeepProtectionKey(string name, string xml)
    {
        using var db = open();
        var kept = db.Keys.Find(name);
        if (kept is null)
        {
            db.Keys.Add(new KeyRow { Name = name, Xml = xml });
        }
        else
        {
            kept.Xml = xml;
        }

        db.SaveChanges();
    }

    /// <summary>
    /// One transaction, with what it tells the change feed. The provider's own strategy does it again where the database was gone for a moment,
    /// but never once it had begun to commit.
    /// </summary>
    private async Task<TResult> WriteAsync<T, TResult>(
        Func<Writing, Task<T>> work, Func<T, IReadOnlyList<News>, TResult> result, CancellationToken stop)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Database.CreateExecutionStrategy().ExecuteAsync(async () =>
        {
            db.ChangeTracker.Clear();
            db.ChangeTracker.AutoDetectChangesEnabled = false;
            // What fails is rolled back whole: no place to go back to is needed within.
            db.Database.AutoSavepointsEnabled = false;
            await using var one = await db.Database.BeginTransactionAsync(stop);
            var writing = new Writing(db, new RowQueue(db), new NewsList(), time.GetUtcNow(), stop);
            var done = await work(writing);
            writing.News.AddTo(writing.Rows, writing.Now);
            await writing.SaveAsync();
            try
            {
                await one.CommitAsync(CancellationToken.None);
            }
            catch (NpgsqlException fault) when (fault is not PostgresException)
            {
                throw new CommitUnsureException(fault);
            }

            return result(done, writing.News.All);
        });
    }

    /// <summary>One transaction that gives back what it told the change feed beside its result.</summary>
    private Task<(T Result, IReadOnlyList<News> News)> WriteAsync<T>(Func<Writing, Task<T>> work, CancellationToken stop) =>
        WriteAsync(work, (done, news) => (done, news), stop);

    /// <summary>The turn of one writer on SQLite; nothing where the database sees to that itself.</summary>
    private async Task<Turn> TurnToWriteAsync(CancellationToken stop)
    {
        if (writers is not null)
        {
            await writers.WaitAsync(stop);
        }

        return new Turn(writers);
    }

    private static async Task<long> RevisionOf(StoreContext db, CancellationToken stop) =>
        await db.Marks.AsNoTracking().Where(m => m.Name == Revision).Select(m => m.Number).FirstOrDefaultAsync(stop);

    private static async Task<long> BumpAsync(StoreContext db, long? expected, CancellationToken stop)
    {
        // The row is written first: it holds every other writer of the policy until this transaction ends.
        var moved = await db.Marks.Where(m => m.Name == Revision && (expected == null || m.Number == expected))
            .ExecuteUpdateAsync(set => set.SetProperty(m => m.Number, m => m.Number + 1), stop);
        return moved == 0 ? throw new StoreMovedException() : await RevisionOf(db, stop);
    }

    private readonly struct Turn(SemaphoreSlim? held) : IDisposable
    {
        public void Dispose() => held?.Release();
    }
}
