namespace WarySentinel.Core.Orders;

/// <summary>The names of what orders are, as programs know them.</summary>
public static class OrderWords
{
    private static readonly string[] Standings =
        ["unpaid", "failed", "paid", "part-refunded", "cancelled", "past-due", "refunded", "charged-back", "ended", "paused"];

    private static readonly string[] Handlings = ["open", "done", "due", "waiting"];

    /// <summary>The names of how it stands with the money.</summary>
    public static IReadOnlyList<string> AllStandings => Standings;

    /// <summary>The names of how far an order is fulfilled.</summary>
    public static IReadOnlyList<string> AllHandlings => Handlings;

    /// <summary>The name.</summary>
    public static string NameOf(OrderStanding standing) => Standings[(int)standing];

    /// <summary>The name.</summary>
    public static string NameOf(OrderHandling handling) => Handlings[(int)handling];
}
