namespace WarySentinel.Contract.Gates;

/// <summary>A column of the board, and somebody to look as.</summary>
public sealed record ViewpointView(string Key, string Title, string Kind);

/// <summary>A row of the board. Cells stand in the order of the columns: <c>open</c>, <c>listed</c>, <c>hidden</c>, or the same with <c>+part</c>.</summary>
public sealed record BoardRowView(string Item, string Title, string Kind, int Children, IReadOnlyList<string> Cells);

/// <summary>A piece of the board: the items right beneath one, or those found.</summary>
/// <param name="Columns">The columns.</param>
/// <param name="Beneath">The item that the rows stand beneath.</param>
/// <param name="Rows">The rows.</param>
/// <param name="More">How many rows were left out.</param>
/// <param name="MoreColumns">How many columns were left out; name those to see.</param>
public sealed record BoardView(IReadOnlyList<ViewpointView> Columns, string Beneath, IReadOnlyList<BoardRowView> Rows, int More, int MoreColumns);
