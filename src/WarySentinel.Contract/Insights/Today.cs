namespace WarySentinel.Contract.Insights;

/// <summary>What an owner looks at first.</summary>
/// <param name="Needs">What needs a hand.</param>
/// <param name="Ends">What ends within a week, soonest first; a bounded number.</param>
/// <param name="EndsInAll">How many end within a week.</param>
/// <param name="Joined">How many joined within a week.</param>
/// <param name="Figures">Members, and who held what, at the end of each of the last months, and now.</param>
/// <param name="NextStep">What a new site still lacks: <c>items</c>, <c>gates</c>, <c>members</c> or <c>sweep</c>; null where it lacks nothing.</param>
public sealed record TodayView(
    IReadOnlyList<NeedView> Needs, IReadOnlyList<EndView> Ends, int EndsInAll, int Joined, FiguresView Figures, string? NextStep);

/// <summary>Something that needs a hand: <c>pending</c>, <c>letters</c>, <c>leaks</c>, <c>unreadable</c> or <c>orders</c>.</summary>
public sealed record NeedView(string Kind, int Count);

/// <summary>Something that ends soon.</summary>
public sealed record EndView(Guid Member, string Name, string Fact, string Title, DateTimeOffset Until);

/// <summary>What ends within a time, and nothing of the same follows.</summary>
/// <param name="Ends">Soonest first; a bounded number.</param>
/// <param name="InAll">How many there are.</param>
public sealed record EndsView(IReadOnlyList<EndView> Ends, int InAll);

/// <summary>Numbers over time.</summary>
/// <param name="At">The moments, oldest first.</param>
/// <param name="Members">How many accounts there were.</param>
/// <param name="Held">For each role and plan, how many held it.</param>
/// <param name="CountedAt">When this was counted; counts are kept for some minutes.</param>
public sealed record FiguresView(
    IReadOnlyList<DateTimeOffset> At, IReadOnlyList<int> Members, IReadOnlyList<HeldView> Held, DateTimeOffset CountedAt);

/// <summary>A role or plan, and how many held it at each moment.</summary>
public sealed record HeldView(string Fact, string Title, IReadOnlyList<int> Counts);
