using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Storage.Access;
using WarySentinel.Storage.Audio;
using WarySentinel.Storage.Catalogue;
using WarySentinel.Storage.Entries;
using WarySentinel.Storage.Files;
using WarySentinel.Storage.Hosted;
using WarySentinel.Storage.Pages;
using WarySentinel.Storage.Facts;
using WarySentinel.Storage.Gates;
using WarySentinel.Storage.Letters;
using WarySentinel.Storage.Nodes;
using WarySentinel.Storage.Orders;
using WarySentinel.Storage.Passwords;
using WarySentinel.Storage.People;
using WarySentinel.Storage.Prices;
using WarySentinel.Storage.Redirects;
using WarySentinel.Storage.SetUp;

namespace WarySentinel.Storage;

/// <summary>Which room stores which change. Each room says so itself; a change that no room knows is a bug.</summary>
internal sealed class Writers
{
    /// <summary>Those of every room.</summary>
    public static readonly Writers All = new Writers().Of(ItemChanges.Register).Of(FactDefinitionChanges.Register).Of(AudienceChanges.Register)
        .Of(GateChanges.Register)
        .Of(PasswordChanges.Register).Of(RedirectChanges.Register).Of(MemberChanges.Register).Of(FormChanges.Register)
        .Of(ConsentChanges.Register).Of(DirectoryChanges.Register).Of(EntryChanges.Register).Of(PageChanges.Register).Of(HostedChanges.Register)
        .Of(OrganisationChanges.Register).Of(LinkChanges.Register).Of(SessionChanges.Register).Of(OutboxChanges.Register)
        .Of(OrderChanges.Register).Of(PassChanges.Register).Of(AreaChanges.Register).Of(ShowChanges.Register)
        .Of(PriceChanges.Register).Of(BackupChanges.Register);

    private readonly Dictionary<Type, Func<Writing, Change, Task>> byType = [];
    private readonly HashSet<Type> gathering = [];

    /// <summary>The kinds of change that are stored somewhere.</summary>
    public IEnumerable<Type> Known => byType.Keys;

    /// <summary>Says how a kind of change is stored.</summary>
    public void On<T>(Func<Writing, T, Task> write)
        where T : Change => byType.Add(typeof(T), (writing, change) => write(writing, (T)change));

    /// <summary>Says what a room above does as well where a change of a room beneath it is stored.</summary>
    public void Also<T>(Func<Writing, T, Task> write)
        where T : Change
    {
        var before = byType[typeof(T)];
        byType[typeof(T)] = async (writing, change) =>
        {
            await before(writing, change);
            await write(writing, (T)change);
        };
    }

    /// <summary>Says how a kind of change is stored that only adds to the rows that the transaction sends at its end; such edits can share one.</summary>
    public void Gather<T>(Action<Writing, T> write)
        where T : Change
    {
        On<T>((writing, change) =>
        {
            write(writing, change);
            return Task.CompletedTask;
        });
        gathering.Add(typeof(T));
    }

    /// <summary>Whether an edit can share a transaction with others.</summary>
    public bool IsGathered(Edit edit) => edit.Changes.All(c => gathering.Contains(c.GetType()));

    public Func<Writing, Change, Task> For(Change change) =>
        byType.GetValueOrDefault(change.GetType()) ?? throw new InvalidOperationException($"The store has no place for {change.GetType().Name}.");

    private Writers Of(Action<Writers> room)
    {
        room(this);
        return this;
    }
}

/// <summary>What is stored in one transaction: by the context, or by rows straight, which go last; and what it tells the feed.</summary>
internal sealed record Writing(StoreContext Db, RowQueue Rows, NewsList News, DateTimeOffset Now, CancellationToken Stop)
{
    /// <summary>Told the number of items stored so far.</summary>
    public IProgress<int>? Progress { get; init; }

    /// <summary>Stores one change of it.</summary>
    public Task WriteAsync(Change change) => Writers.All.For(change)(this, change);

    /// <summary>Stores a row under its key, in place of what is there.</summary>
    public async Task PutAsync<TRow>(TRow row, params object[] key)
        where TRow : class
    {
        TRow? old;
        try
        {
            old = await Db.FindAsync<TRow>(key, Stop);
        }
        catch (Exception fault) when (StraightRows.IsUnreadable(fault))
        {
            // What stands there cannot be read; it is written over as it is.
            Db.ChangeTracker.Clear();
            Db.Entry(row).State = EntityState.Modified;
            await SaveAsync();
            return;
        }

        if (old is not null)
        {
            Db.Entry(old).CurrentValues.SetValues(row);
        }
        else
        {
            Db.Add(row);
        }

        await SaveAsync();
    }

    /// <summary>Adds an entry to the audit trail.</summary>
    public void Note(AuditNote note) => Rows.Insert(new AuditRow { At = Now, By = note.By, Action = note.Action, Subject = note.Subject, After = note.After });

    /// <summary>Adds the entries of an edit to the audit trail.</summary>
    public void Note(Edit edit, string by)
    {
        foreach (var entry in edit.Notes.Prepend(edit))
        {
            Rows.Insert(new AuditRow
            {
                At = Now, By = by, Action = entry.Action, Subject = entry.Subject, Before = entry.Before, After = entry.After, Detail = entry.Detail,
            });
        }
    }

    /// <summary>Sends what is gathered so far.</summary>
    public async Task SaveAsync()
    {
        if (Db.ChangeTracker.Entries().Any())
        {
            Db.ChangeTracker.DetectChanges();
            await Db.SaveChangesAsync(Stop);
            Db.ChangeTracker.Clear();
        }

        await Rows.SendAsync(Stop);
    }
}
