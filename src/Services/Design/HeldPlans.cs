namespace ClearLexicon.Services.Design;

/// <summary>Holds what was read from a file until its plan is applied or dropped; only the newest few are held.</summary>
internal sealed class HeldPlans<T>
    where T : class
{
    private const int Most = 8;

    private readonly List<(string Ticket, T Plan)> _held = [];

    /// <summary>Holds a plan and gives its ticket.</summary>
    public string Hold(T plan)
    {
        var ticket = Guid.NewGuid().ToString("N");
        lock (_held)
        {
            _held.Add((ticket, plan));
            if (_held.Count > Most)
                _held.RemoveAt(0);
        }
        return ticket;
    }

    /// <summary>Takes what is held under a ticket; null when it is not held any more.</summary>
    public T? Take(string ticket)
    {
        lock (_held)
        {
            var at = _held.FindIndex(h => h.Ticket == ticket);
            if (at < 0)
                return null;
            var plan = _held[at].Plan;
            _held.RemoveAt(at);
            return plan;
        }
    }
}
