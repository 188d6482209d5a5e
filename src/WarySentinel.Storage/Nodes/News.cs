using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WarySentinel.Storage.Nodes;

/// <summary>What the change feed tells of.</summary>
public enum Told
{
    /// <summary>The policy has another revision; the name is its number.</summary>
    Policy = 1,
    /// <summary>A member, what they hold or their sessions; the name is their id.</summary>
    Member = 2,
    /// <summary>One session, or what is unlocked in it; the name is its id.</summary>
    Session = 3,
    /// <summary>A shared password that is over, or over sooner, with what it unlocked; the name is its id.</summary>
    Password = 4,
    /// <summary>A gate is gone, with what its passwords unlocked; the name is its key.</summary>
    Gate = 5,
    /// <summary>An access token is gone; the name is its id.</summary>
    Token = 6,
    /// <summary>What very many members hold; no name.</summary>
    Members = 7,
    /// <summary>A letter that somebody waits for is to be sent; the name is its id.</summary>
    Letter = 8,
    /// <summary>A pass that is changed or over; the name is its id.</summary>
    Pass = 9,
}

/// <summary>One thing that changed: its kind and its name.</summary>
public readonly record struct News(Told Kind, string Name);

/// <summary>What one transaction tells the feed; stored with it, or not at all.</summary>
internal sealed class NewsList
{
    private readonly List<News> all = [];

    public IReadOnlyList<News> All => all;

    public void Tell(Told kind, string name)
    {
        if (!all.Contains(new News(kind, name)))
        {
            all.Add(new News(kind, name));
        }
    }

    public void TellPolicy(long revision) => Tell(Told.Policy, revision.ToString(System.Globalization.CultureInfo.InvariantCulture));

    public void TellAll(NewsList others)
    {
        foreach (var news in others.all)
        {
            Tell(news.Kind, news.Name);
        }
    }

    public void AddTo(RowQueue rows, DateTimeOffset now)
    {
        foreach (var news in all)
        {
            rows.Insert(new FeedRow { Kind = (int)news.Kind, Name = news.Name, At = now });
        }
    }
}

internal sealed class FeedRow
{
    public long Id { get; set; }

    public int Kind { get; set; }

    public required string Name { get; set; }

    public DateTimeOffset At { get; set; }

    public static void Map(EntityTypeBuilder<FeedRow> e)
    {
        e.ToTable("feed");
        e.HasKey(r => r.Id);
    }
}

/// <summary>Who does something at present that one machine does at a time.</summary>
internal sealed class LeaseRow
{
    public required string Name { get; set; }

    public required string Holder { get; set; }

    public DateTimeOffset Until { get; set; }

    public static void Map(EntityTypeBuilder<LeaseRow> e)
    {
        e.ToTable("leases");
        e.HasKey(r => r.Name);
    }
}
