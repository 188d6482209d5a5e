using System.Text.Json.Serialization;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>What one step of a sweep came to. A sweep is the sum of its notes, so that one that was broken off goes on from those that were kept.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "of")]
[JsonDerivedType(typeof(Learned), "learned")]
[JsonDerivedType(typeof(Asked), "asked")]
[JsonDerivedType(typeof(Spelled), "spelled")]
[JsonDerivedType(typeof(Turned), "turned")]
[JsonDerivedType(typeof(Drawn), "drawn")]
internal abstract record SweepNote(string Address)
{
    /// <summary>What is wrong there.</summary>
    public IReadOnlyList<SweepFinding> Findings { get; init; } = [];

    /// <summary>What outsiders got there, as it was read.</summary>
    public IReadOnlyList<SweepRead> Read { get; init; } = [];

    /// <summary>Addresses that it leads to and that were not known yet.</summary>
    public IReadOnlyList<string> Leads { get; init; } = [];

    /// <summary>Prices that stand there and are closed.</summary>
    public IReadOnlyList<ShownPrices> Prices { get; init; } = [];

    /// <summary>How many requests it took.</summary>
    public int Requests { get; init; }

    /// <summary>What a guarded page says, as its owner reads it: the words of it, or what the bytes of it come to.</summary>
    internal sealed record Learned(string Address, IReadOnlyList<ulong> Marks, ulong Print) : SweepNote(Address)
    {
        /// <summary>What it says, singly.</summary>
        public IReadOnlyList<Saying> Sayings { get; init; } = [];

        /// <summary>Whether it is no page but data.</summary>
        public bool IsData { get; init; }
    }

    /// <summary>What came back from an address.</summary>
    /// <param name="Address">The address.</param>
    /// <param name="IsBeside">Whether the catalogue does not know it.</param>
    /// <param name="IsAnswered">Whether an outsider got anything.</param>
    /// <param name="Scripts">What its scripts are, where it is a page that has some.</param>
    internal sealed record Asked(string Address, bool IsBeside, bool IsAnswered, ulong? Scripts) : SweepNote(Address)
    {
        /// <summary>Searches that it offers.</summary>
        public IReadOnlyList<string> Searches { get; init; } = [];

        /// <summary>Why what outsiders got could not be read, or not to its end.</summary>
        public SweepUnread Unread { get; init; }
    }

    /// <summary>What other spellings of an address came to.</summary>
    internal sealed record Spelled(string Address) : SweepNote(Address);

    /// <summary>What asking for an address in other ways came to.</summary>
    internal sealed record Turned(string Address) : SweepNote(Address);

    /// <summary>What a browser made of a page.</summary>
    /// <param name="Address">The address of the page.</param>
    /// <param name="IsDrawn">Whether it could be drawn.</param>
    /// <param name="Elsewhere">Hosts that it wanted something of, and that were not asked.</param>
    internal sealed record Drawn(string Address, bool IsDrawn, IReadOnlyList<string> Elsewhere) : SweepNote(Address);
}

/// <summary>What was read of one answer.</summary>
/// <param name="Address">Where it was got.</param>
/// <param name="Item">The item there, or null.</param>
/// <param name="Via">The way.</param>
/// <param name="IsOpenPage">Whether it is a page of the catalogue that is open to all.</param>
/// <param name="Marks">The marks of guarded pages in it.</param>
/// <param name="Titles">The titles of hidden items in it, by number.</param>
/// <param name="Print">What its bytes come to, where it is no text; else 0.</param>
internal sealed record SweepRead(
    string Address, string? Item, SweepVia Via, bool IsOpenPage, IReadOnlyList<FoundMark> Marks, IReadOnlyList<ulong> Titles, ulong Print = 0)
{
    /// <summary>Marks that it says in the open.</summary>
    public IReadOnlyList<ulong> Open { get; init; } = [];

    /// <summary>The status, where it is a refusal or says that nothing is there; else 0.</summary>
    public int Refused { get; init; }

    /// <summary>Titles that it says in the open.</summary>
    public IReadOnlyList<ulong> OpenTitles { get; init; } = [];
}
