namespace WarySentinel.Core.Markup;

/// <summary>A hidden link among the bytes that are held.</summary>
internal sealed class HiddenLink
{
    /// <summary>Its tag.</summary>
    public required long From;
    public long To;

    /// <summary>Its end tag; nothing where it has none.</summary>
    public long EndFrom = -1;
    public long EndTo = -1;

    /// <summary>Whether blocks stand in it: it is a card rather than words.</summary>
    public bool IsCard;

    /// <summary>Whether it is known what becomes of it.</summary>
    public bool IsSettled;
}

/// <summary>
/// A line of text, between the beginning or end of one block and the next: words of its own make it running text, in which the words of a hidden link stay;
/// without any it is a menu or list, from which the link goes with what parts it from the next (docs/explanation/filter.md).
/// </summary>
internal sealed class InlineRun
{
    /// <summary>So many words beside links make running text.</summary>
    private const int RunningWords = 3;

    /// <summary>So many, one of them before a hidden link, are what an entry says itself.</summary>
    private const int ProseWords = 8;

    private int before = -1;

    /// <summary>Where it begins.</summary>
    public long Start { get; private set; }

    /// <summary>Words beside links, as far as they were counted.</summary>
    public int Words { get; private set; }

    /// <summary>Whether it is known to be running text.</summary>
    public bool IsRunning => Words >= RunningWords;

    /// <summary>Whether more words would say nothing new.</summary>
    public bool IsCounted => Words >= ProseWords;

    /// <summary>Whether it says something of its own around a hidden link.</summary>
    public bool IsProse => before > 0 && Words >= ProseWords;

    /// <summary>The hidden links in it that are not settled yet.</summary>
    public List<HiddenLink> Links { get; } = [];

    /// <summary>Begins anew.</summary>
    public void Begin(long at)
    {
        (Start, Words, before) = (at, 0, -1);
        Links.Clear();
    }

    /// <summary>Counts words beside links.</summary>
    public void Count(int words) => Words += words;

    /// <summary>A hidden link stands here.</summary>
    public void Meet(HiddenLink link)
    {
        before = Math.Max(before, Words);
        Links.Add(link);
    }
}
